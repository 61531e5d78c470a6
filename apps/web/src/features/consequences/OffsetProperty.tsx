import { NumberInput, Select } from '@mantine/core';
import type { Offset } from '@ypomet/core';
import { useEffect, useState } from 'react';
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
  const [count, setCount] = useState<string | number>(value.count);
  useEffect(() => setCount(value.count), [value.count]);
  const keepCount = (): void => {
    const next = Number(count);
    if (count === '' || !Number.isInteger(next)) setCount(value.count);
    else if (next !== value.count) onKeep({ ...value, count: next });
  };
  return (
    <fieldset className={classes.offset}>
      <legend>{label}</legend>
      <NumberInput
        size="xs"
        hideControls
        aria-label={`${label}: how many`}
        min={0}
        max={10_000}
        clampBehavior="blur"
        allowDecimal={false}
        allowNegative={false}
        value={count}
        onChange={setCount}
        onBlur={keepCount}
        onKeyDown={(event) => event.key === 'Enter' && keepCount()}
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
