import { Chip, Group, NumberInput, SegmentedControl, Select, Textarea, TextInput } from '@mantine/core';
import type { Field, Json, SubField } from '@ypomet/core';

type Props = {
  readonly id: string;
  readonly field: Field | SubField;
  readonly value: Json;
  readonly hasError: boolean;
  readonly describedBy?: string;
  /** Instead of a visible label, in cells of a table. */
  readonly label?: string;
  readonly onEnter: (value: Json) => void;
};

const asText = (value: Json): string => (typeof value === 'string' ? value : '');

/** The input that fits a field's type. Yields JSON as it is sent: numbers as text, nothing as null. */
export function FieldInput({ id, field, value, hasError, describedBy, label, onEnter }: Props) {
  const common = {
    id,
    error: hasError,
    ...(describedBy ? { 'aria-describedby': describedBy } : {}),
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
          <Group gap={6} id={id} role="group" {...(label ? { 'aria-label': label } : { 'aria-labelledby': `${id}-label` })}>
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
        <TextInput
          {...common}
          type={field.type === 'date-time' ? 'datetime-local' : field.type}
          value={field.type === 'date-time' ? asText(value).slice(0, 16) : asText(value)}
          onChange={(event) => enterText(event.currentTarget.value)}
        />
      );
    default:
      return (
        <TextInput
          {...common}
          value={asText(value)}
          maxLength={5000}
          onChange={(event) => enterText(event.currentTarget.value)}
        />
      );
  }
}
