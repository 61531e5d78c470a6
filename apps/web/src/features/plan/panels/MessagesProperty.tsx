import type { Field, FieldType, Limited, SubField } from '@ypomet/core';
import classes from './Panel.module.css';
import { TextProperty } from './properties.tsx';

/** What each limit is called, and the types that have it. */
const LIMITS: Readonly<Record<Limited, { readonly when: string; readonly of: readonly FieldType[] | null }>> = {
  required: { when: 'It is required and empty', of: null },
  length: { when: 'It is too short or too long', of: ['text', 'long-text'] },
  pattern: { when: 'It doesn’t match the pattern', of: ['text'] },
  range: { when: 'It is below or above what it may be', of: ['number', 'money', 'date'] },
  scale: { when: 'It has too many decimal places', of: ['number', 'money'] },
  options: { when: 'The option isn’t offered', of: ['choice', 'multi-choice'] },
  count: { when: 'There are too few or too many', of: ['table', 'file'] },
  kinds: { when: 'A file is of another kind', of: ['file'] },
  size: { when: 'A file is too large', of: ['file'] },
};

/** The analyst's own words for each limit of a field; where none are given, ours are shown. */
export function MessagesProperty({
  field,
  onKeep,
}: {
  readonly field: Field | SubField;
  readonly onKeep: (messages: Readonly<Record<string, string>>) => boolean;
}) {
  const own = (Object.keys(LIMITS) as Limited[]).filter((limit) => LIMITS[limit].of?.includes(field.type) ?? true);
  const given = own.filter((limit) => field.messages[limit] !== undefined).length;
  return (
    <details className={classes.about}>
      <summary>Own messages{given > 0 ? ` (${given})` : ''}</summary>
      <div className={classes.panel}>
        {own.map((limit) => (
          <TextProperty
            key={limit}
            label={LIMITS[limit].when}
            value={field.messages[limit] ?? ''}
            placeholder="our words"
            onKeep={(words) => {
              const { [limit]: _, ...others } = field.messages;
              return onKeep(words.trim() === '' ? others : { ...others, [limit]: words.trim() });
            }}
          />
        ))}
      </div>
    </details>
  );
}
