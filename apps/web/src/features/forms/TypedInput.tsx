import { isUnreadText, type Json, makeUnreadText, readValue, type TypedField, writeTypedValue } from '@ypomet/core';
import { useCallback, useMemo } from 'react';
import { ReadInput } from '../../shared/reading/ReadInput.tsx';
import { todayIn } from '../../shared/reading/today.ts';
import { DayButton } from './DayButton.tsx';
import classes from './FieldInput.module.css';
import { useFormWorld } from './form-world.tsx';

type Props = {
  readonly id: string;
  readonly field: TypedField;
  readonly value: Json;
  readonly hasError: boolean;
  readonly isRequired: boolean | undefined;
  readonly describedBy: string | undefined;
  /** Instead of a visible label, in cells of a table, whose heads name the unit too. */
  readonly label: string | undefined;
  readonly onEnter: (value: Json) => void;
};

/** Values that show how each type is written. */
const EXAMPLES = {
  number: '1250.5',
  money: '1250.5',
  date: '2027-03-12',
  time: '09:30',
  'date-time': '2027-03-12T08:30:00Z',
} as const;

/** The input of a number, an amount, a day or a time: written and read as the workspace's people do. */
export function TypedInput({ id, field, value, label, onEnter, ...state }: Props) {
  const { zone, locale } = useFormWorld();
  const style = useMemo(() => ({ zone, locale, today: todayIn(zone) }), [zone, locale]);
  const write = useCallback(
    (json: Json): string => writeTypedValue(typeof json === 'string' ? json : '', field, style),
    [field, style],
  );
  const isUnread = isUnreadText(value);
  const example = write(field.type === 'number' && field.scale === 0 ? '1250' : EXAMPLES[field.type]);
  const isDay = field.type === 'date' || field.type === 'date-time';
  const isNumber = field.type === 'number' || field.type === 'money';
  const unit = field.type === 'money' ? field.currency : field.type === 'number' ? field.unit : '';
  const hasUnit = unit !== '' && label === undefined;
  const text = isUnread ? value.typed : write(value);
  // A value that an earlier version of the form kept as it was typed is no value of this field.
  const isForeign = typeof value === 'string' && text === value && readValue(value, field, style).kind !== 'value';
  return (
    <ReadInput<Json>
      id={id}
      {...state}
      {...(label === undefined ? {} : { 'aria-label': label })}
      when="typed"
      shown={text}
      isUnread={isUnread || isForeign}
      read={(typed) => readValue(typed, field, style)}
      write={write}
      example={example}
      onRead={onEnter}
      onUnread={(typed) => onEnter(makeUnreadText(typed))}
      {...(isNumber ? { inputMode: field.scale > 0 ? 'decimal' : 'numeric' } : { placeholder: `such as ${example}` })}
      {...(hasUnit
        ? { rightSection: <span className={classes.unit}>{unit}</span>, rightSectionWidth: 18 + 8 * unit.length }
        : {})}
      {...(isDay
        ? {
            rightSection: (
              <DayButton
                label={`Choose a day: ${label ?? field.name}`}
                kind={field.type}
                value={typeof value === 'string' ? value : ''}
                locale={locale}
                zone={zone}
                onChoose={onEnter}
                isAside={label !== undefined}
              />
            ),
          }
        : {})}
    />
  );
}
