import { Select } from '@mantine/core';
import type { Offset } from '@ypomet/core';
import { CountInput } from '../../shared/reading/CountInput.tsx';
import { useSession } from '../session/queries.ts';
import classes from './Consequences.module.css';
import { OFFSET_UNITS } from './offset-words.ts';

/** How long before or after a due date: a number, its unit, and the side. */
export function OffsetProperty({
  label,
  value,
  onKeep,
}: {
  readonly label: string;
  readonly value: Offset;
  readonly onKeep: (value: Offset) => void;
}) {
  const { locale } = useSession().workspace;
  return (
    <fieldset className={classes.offset}>
      <legend>{label}</legend>
      <CountInput
        size="xs"
        aria-label={`${label}: how many`}
        locale={locale}
        max={10_000}
        value={value.count}
        onKeep={(count) => {
          if (count === null) return 'Write a number: 0 is the due date itself.';
          if (count !== value.count) onKeep({ ...value, count });
          return null;
        }}
      />
      <Select
        size="xs"
        aria-label={`${label}: unit`}
        data={OFFSET_UNITS}
        value={value.unit}
        allowDeselect={false}
        onChange={(unit) => unit && onKeep({ ...value, unit: unit as Offset['unit'] })}
      />
      <Select
        size="xs"
        aria-label={`${label}: before or after`}
        data={[
          { value: 'before', label: 'before' },
          { value: 'after', label: 'after' },
        ]}
        value={value.side}
        allowDeselect={false}
        onChange={(side) => side && onKeep({ ...value, side: side as Offset['side'] })}
      />
    </fieldset>
  );
}
