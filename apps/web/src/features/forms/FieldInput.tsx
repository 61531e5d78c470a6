import { Chip, Group, NumberInput, SegmentedControl, Select, Textarea, TextInput } from '@mantine/core';
import { type Field, type Json, readDateTime, type SubField, writeWallClock } from '@ypomet/core';
import { numberMarks } from '../../shared/local-dates.ts';
import { ChoiceInput } from './ChoiceInput.tsx';
import { DateField } from './DateField.tsx';
import { FilesInput } from './FilesInput.tsx';
import { type Told, useFormWorld } from './form-world.tsx';
import { SignOffInput } from './SignOffInput.tsx';

type Props = {
  readonly id: string;
  readonly field: Field | SubField;
  /** `field`, or `table.subField`. */
  readonly path: string;
  readonly value: Json;
  /** What the record has, whatever was entered since. */
  readonly stored: Json;
  readonly hasError: boolean;
  readonly isRequired?: boolean;
  /** What says more of it: ids of help and of what is wrong. */
  readonly describedBy?: string | null;
  /** Instead of a visible label, in cells of a table. */
  readonly label?: string;
  readonly onEnter: (value: Json) => void;
};

/** An instant, as it is stored, by the workspace's clock; what is half typed stays as it is. */
export function toWallClock(text: string, zone: string): string {
  const instant = /(Z|[+-]\d{2}:\d{2})$/.test(text) ? readDateTime(text, zone) : null;
  return instant ? writeWallClock({ ...instant, zone }) : text;
}

const asText = (value: Json): string => (typeof value === 'string' ? value : '');

/** The input that fits a field's type. Yields JSON as it is sent: numbers as text, nothing as null. */
export function FieldInput({ id, field, path, value, stored, hasError, isRequired, describedBy, label, onEnter }: Props) {
  const { zone, locale } = useFormWorld();
  const marks = numberMarks(locale);
  const described = describedBy ? { 'aria-describedby': describedBy } : {};
  const told: Told = { ...described, ...(isRequired ? { 'aria-required': true } : {}) };
  const common = {
    id,
    error: hasError,
    // An input's own attribute would be overwritten by the one of the label it comes with.
    attributes: { input: told },
    ...(label ? { 'aria-label': label } : {}),
  };
  const enterText = (text: string): void => onEnter(text === '' ? null : text);
  switch (field.type) {
    case 'long-text':
      return (
        <Textarea
          {...common}
          autosize
          minRows={2}
          maxRows={10}
          value={asText(value)}
          onChange={(event) => enterText(event.currentTarget.value)}
        />
      );
    case 'number':
    case 'money': {
      const unit = field.type === 'money' ? field.currency : field.unit;
      return (
        <NumberInput
          {...common}
          value={asText(value)}
          decimalScale={field.scale}
          decimalSeparator={marks.decimal}
          {...(marks.group === '' ? {} : { thousandSeparator: marks.group })}
          valueIsNumericString
          hideControls
          inputMode={field.scale > 0 ? 'decimal' : 'numeric'}
          rightSection={
            unit ? (
              <span className="mono" style={{ fontSize: 12, color: 'var(--ink-soft)' }}>
                {unit}
              </span>
            ) : null
          }
          rightSectionWidth={unit ? 46 : 0}
          onChange={(entered) => enterText(String(entered))}
        />
      );
    }
    case 'yes-no':
      return (
        <SegmentedControl
          {...told}
          id={id}
          size="sm"
          {...(label ? { 'aria-label': label } : { 'aria-labelledby': `${id}-label` })}
          data={[
            { value: 'yes', label: 'Yes' },
            { value: 'no', label: 'No' },
            { value: '', label: 'Open' },
          ]}
          value={value === true ? 'yes' : value === false ? 'no' : ''}
          onChange={(chosen) => onEnter(chosen === '' ? null : chosen === 'yes')}
        />
      );
    case 'choice':
      return (
        <Select
          {...common}
          data={field.options
            .filter((option) => !option.retired || option.code === value)
            .map((option) => ({ value: option.code, label: option.label }))}
          value={asText(value) || null}
          clearable
          searchable={field.options.length > 8}
          placeholder="Choose"
          onChange={(chosen) => onEnter(chosen)}
        />
      );
    case 'multi-choice': {
      const chosen = Array.isArray(value) ? value.map(String) : [];
      return (
        <Chip.Group multiple value={chosen} onChange={(codes) => onEnter(codes.length === 0 ? null : codes)}>
          <Group
            {...described}
            gap={6}
            id={id}
            role="group"
            {...(label ? { 'aria-label': label } : { 'aria-labelledby': `${id}-label` })}
          >
            {field.options
              .filter((option) => !option.retired || chosen.includes(option.code))
              .map((option) => (
                <Chip key={option.code} value={option.code} size="sm" radius="sm" variant="outline">
                  {option.label}
                </Chip>
              ))}
          </Group>
        </Chip.Group>
      );
    }
    case 'date':
    case 'time':
    case 'date-time':
      return (
        <DateField
          {...common}
          kind={field.type}
          locale={locale}
          value={field.type === 'date-time' ? toWallClock(asText(value), zone) : asText(value)}
          onEnter={onEnter}
        />
      );
    case 'member':
    case 'reference':
      return (
        <ChoiceInput
          {...common}
          path={path}
          what={field.type === 'member' ? 'member' : 'record'}
          value={asText(value) || null}
          onEnter={onEnter}
        />
      );
    case 'file':
      return (
        <FilesInput
          id={id}
          field={field}
          value={value}
          label={label ?? field.name}
          {...(describedBy ? { describedBy } : {})}
          onEnter={onEnter}
        />
      );
    case 'sign-off':
      return (
        <SignOffInput
          id={id}
          field={field.key}
          value={value}
          stored={stored}
          label={label ?? field.name}
          {...(describedBy ? { describedBy } : {})}
          onEnter={onEnter}
        />
      );
    case 'table':
    case 'note':
      return null;
    case 'text':
      return (
        <TextInput
          {...common}
          value={asText(value)}
          maxLength={100_000}
          onChange={(event) => enterText(event.currentTarget.value)}
        />
      );
    default:
      return field satisfies never;
  }
}
