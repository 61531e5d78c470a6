import { Button } from '@mantine/core';
import { type Form, isUnreadText, type Json } from '@ypomet/core';
import { Notice } from '../../shared/Notice.tsx';
import type { Entered } from './form-state.ts';
import classes from './ParticipantForm.module.css';

type Props = {
  readonly entered: Entered;
  readonly isAsked: (key: string) => boolean;
  /** Whether whoever is here may enter anything now. */
  readonly mayAct: boolean;
  readonly form: Form;
  readonly onForget: () => void;
};

/**
 * What was entered for fields that the form no longer has: the record has moved on meanwhile. It stays to be read and
 * copied until whoever entered it lets it go. Fields that the form has, and an adjustment took away, come back by themselves.
 */
export function LeftOver({ entered, isAsked, mayAct, form, onForget }: Props) {
  const gone = Object.entries(entered).filter(
    ([key, value]) => value !== null && !isAsked(key) && !(mayAct && isKnown(form, key)),
  );
  if (gone.length === 0) return null;
  return (
    <Notice
      tone="caution"
      title={
        mayAct
          ? 'What you entered before isn’t asked for here any more'
          : 'Others have this record now: what you entered is kept here, and can’t be handed on'
      }
    >
      <dl className={classes.leftOver}>
        {gone.map(([key, value]) => (
          <div key={key}>
            <dt>{form.forms.fieldByKey.get(key)?.field.name ?? key}</dt>
            <dd>{inWords(value)}</dd>
          </div>
        ))}
      </dl>
      <Button variant="subtle" size="compact-sm" onClick={onForget}>
        Let it go
      </Button>
    </Notice>
  );
}

/** A field that the stage's form can come to ask for. */
const isKnown = (form: Form, key: string): boolean => {
  const step = form.stageForm.fieldSteps.get(key);
  return (
    step !== undefined &&
    (step.placement.planned !== 'hidden' || step.placement.adjustments.length > 0) &&
    step.placement.planned !== 'read-only'
  );
};

/** A value that was entered, as it is, for want of its field. */
export function inWords(value: Json): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.map((item: Json) => inWords(item)).join('; ');
  if (isUnreadText(value)) return value.typed;
  if (value !== null && typeof value === 'object') {
    const { values, name, sign } = value as { values?: Record<string, Json>; name?: Json; sign?: Json };
    if (sign === true) return 'signed';
    return values
      ? Object.values(values)
          .filter((one) => one !== null)
          .map(inWords)
          .join(', ')
      : inWords(name ?? null);
  }
  return value === null ? '' : String(value);
}
