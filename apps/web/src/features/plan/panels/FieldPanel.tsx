import {
  expressionOf,
  type FieldType,
  findField,
  findSubField,
  joinPath,
  splitFieldPath,
  splitPath,
  typeOfField,
} from '@ypomet/core';
import { useDraft } from '../../drafts/draft-context.tsx';
import { Word } from '../../help/Word.tsx';
import inspector from '../Inspector.module.css';
import type { Selection } from '../selection.ts';
import { ComputedBy } from './ComputedBy.tsx';
import { DefaultProperty } from './DefaultProperty.tsx';
import { FieldLimits } from './FieldLimits.tsx';
import { neededBy, partOfField, typeChoices, useOtherWorkflows } from './field-types.ts';
import { MessagesProperty } from './MessagesProperty.tsx';
import classes from './Panel.module.css';
import { PartActions, UsedBy } from './PartActions.tsx';
import { ChoiceProperty, ChoicesProperty, SwitchProperty, TextProperty, useChange } from './properties.tsx';

type Props = { readonly field: string; readonly onSelect: (selection: Selection) => void };

/** Who is here: the analyst, saying what a field is: its type, its limits, who may read it, and what it is made from. */
export function FieldPanel({ field: path, onSelect }: Props) {
  const { store, definition, compiled } = useDraft();
  const others = useOtherWorkflows();
  const part = partOfField(path);
  const change = useChange(part);
  const { field: table, sub } = splitFieldPath(path);
  const field = findField(definition, path) ?? findSubField(definition, path)?.field;
  if (!field) return <p>This field is gone.</p>;
  const scope = (sub !== null && compiled.forms.layout.rowScopes.get(table)) || compiled.forms.layout.scope;
  const type = typeOfField(field, store.editing.findWorkflow);
  const selectKey = (key: string): void => onSelect({ kind: 'field', field: sub === null ? key : `${table}.${key}` });
  const rename = (key: string): boolean => {
    const isRenamed = store.edit({ type: 'rename-key', part, key });
    if (isRenamed) selectKey(key);
    return isRenamed;
  };
  return (
    <>
      <p className={inspector.where}>{sub === null ? 'Field' : `Column of ${findField(definition, table)?.name ?? table}`}</p>
      <h2 className={inspector.title}>{field.name}</h2>
      <div className={classes.panel} key={path}>
        <TextProperty label="Name" value={field.name} onKeep={(name) => change({ name })} />
        <div className={classes.pair}>
          <ChoiceProperty
            label="Type"
            value={field.type}
            choices={typeChoices(sub !== null)}
            onKeep={(type) =>
              type &&
              change({
                type,
                ...neededBy(
                  type as FieldType,
                  others.map(({ key }) => key),
                ),
              })
            }
          />
          <TextProperty label="Key in expressions" value={field.key} isCode onKeep={rename} />
        </div>
        {'section' in field && (
          <ChoiceProperty
            label="Section"
            value={field.section}
            choices={definition.sections.map(({ key, name }) => ({ value: key, label: name }))}
            onKeep={(section) => section && change({ section })}
          />
        )}
        <TextProperty
          label="Short name, where there is little room"
          value={field.short}
          placeholder={field.name}
          onKeep={(short) => change({ short })}
        />
        <TextProperty label="Help for who fills it in" value={field.help} lines={2} onKeep={(help) => change({ help })} />
        <FieldLimits
          field={field}
          change={change}
          onCode={(code, next) =>
            store.edit({ type: 'rename-key', part: joinPath(...(splitPath(part) ?? []), 'options', code), key: next })
          }
          onSelect={onSelect}
        />
        {'default' in field && expressionOf(field) === null && (
          <DefaultProperty
            text={field.default}
            scope={compiled.forms.layout.scope}
            type={type}
            path={[field.key]}
            at={{ workflow: definition.key, path: `${part}.default` }}
            onKeep={(text) => change({ default: text })}
          />
        )}
        {'expression' in field && (
          <ComputedBy
            part={part}
            table={sub === null ? null : table}
            field={field}
            scope={scope}
            expected={type}
            onSelect={onSelect}
          />
        )}
        {'confidentialTo' in field && (
          <ChoicesProperty
            label="Only these roles may read it"
            value={field.confidentialTo}
            choices={definition.roles.map(({ key, name }) => ({ value: key, label: name }))}
            none="all who see the record"
            onKeep={(confidentialTo) => change({ confidentialTo: [...confidentialTo] })}
          />
        )}
        {'confidentialTo' in field && field.confidentialTo.length > 0 && (
          <p className={inspector.soft}>
            It is <Word of="confidential">confidential</Word>.
          </p>
        )}
        {expressionOf(field) !== null && (
          <p className={inspector.soft}>
            It is <Word of="computed">computed</Word>.
          </p>
        )}
        {field.type !== 'note' && <MessagesProperty field={field} onKeep={(messages) => change({ messages: { ...messages } })} />}
        {'discloses' in field && expressionOf(field) !== null && (
          <SwitchProperty
            label="Whoever may read it may read what it comes to"
            value={field.discloses}
            onKeep={(discloses) => change({ discloses })}
          />
        )}
      </div>
      <UsedBy part={part} onSelect={onSelect} />
      <PartActions
        part={part}
        earlier="Move up"
        later="Move down"
        onCopied={selectKey}
        onGone={() => onSelect({ kind: 'nothing' })}
      />
    </>
  );
}
