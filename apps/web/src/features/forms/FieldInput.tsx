import { Chip, Group, Textarea, TextInput } from '@mantine/core';
import { type Field, isUnreadText, type Json, type SubField } from '@ypomet/core';
import { ButtonsInput } from './ButtonsInput.tsx';
import { ChoiceInput } from './ChoiceInput.tsx';
import { FilesInput } from './FilesInput.tsx';
import type { Told } from './form-world.tsx';
import { ListInput } from './ListInput.tsx';
import { SignOffInput } from './SignOffInput.tsx';
import { TypedInput } from './TypedInput.tsx';

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

const asText = (value: Json): string => (typeof value === 'string' ? value : '');

const YES_NO = [
  { value: 'yes', label: 'Yes' },
  { value: 'no', label: 'No' },
];
/** More options are a list, whatever the design says: so many buttons can be taken in at a glance. */
const MOST_BUTTONS = 6;

/** The input that fits a field's type. Yields JSON as it is sent: numbers as text, nothing as null. */
export function FieldInput({ id, field, path, value, stored, hasError, isRequired, describedBy, label, onEnter }: Props) {
  const described = describedBy ? { 'aria-describedby': describedBy } : {};
  const told: Told = { ...described, ...(isRequired ? { 'aria-required': true } : {}) };
  const common = {
    id,
    error: hasError,
    // An input's own attribute would be overwritten by the one of the label it comes with.
    attributes: { input: told },
    ...(label ? { 'aria-label': label } : {}),
  };
  const typed = isUnreadText(value) ? value.typed : null;
  const enterText = (text: string): void => onEnter(text === '' ? null : text);
  switch (field.type) {
    case 'long-text':
      return (
        <Textarea
          {...common}
          autosize
          dir="auto"
          minRows={2}
          maxRows={10}
          value={asText(value)}
          onChange={(event) => enterText(event.currentTarget.value)}
        />
      );
    case 'number':
    case 'money':
    case 'date':
    case 'time':
    case 'date-time':
      return (
        <TypedInput
          id={id}
          field={field}
          value={value}
          hasError={hasError}
          isRequired={isRequired}
          describedBy={describedBy ?? undefined}
          label={label}
          onEnter={onEnter}
        />
      );
    case 'yes-no':
      return (
        <ButtonsInput
          {...told}
          id={id}
          label={label}
          layout={field.layout}
          options={YES_NO}
          value={value === true ? 'yes' : value === false ? 'no' : null}
          onEnter={(chosen) => onEnter(chosen === null ? null : chosen === 'yes')}
        />
      );
    case 'choice': {
      const options = field.options
        .filter((option) => !option.retired || option.code === value)
        .map((option) => ({ value: option.code, label: option.label }));
      const chosen = asText(value) || null;
      if (field.layout !== 'list' && options.length <= MOST_BUTTONS)
        return (
          <ButtonsInput
            {...told}
            id={id}
            label={label}
            layout={field.layout}
            options={options}
            value={chosen}
            onEnter={onEnter}
          />
        );
      return <ListInput {...common} options={options} value={chosen} typed={typed} onEnter={onEnter} />;
    }
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
    case 'member':
    case 'reference':
      return (
        <ChoiceInput
          {...common}
          path={path}
          what={field.type === 'member' ? 'member' : 'record'}
          value={asText(value) || null}
          typed={typed}
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
          dir="auto"
          value={asText(value)}
          maxLength={100_000}
          onChange={(event) => enterText(event.currentTarget.value)}
        />
      );
    default:
      return field satisfies never;
  }
}
