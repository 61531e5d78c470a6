import { findPart, type Workflow, within } from '@ypomet/core';
import { useDraft } from '../drafts/draft-context.tsx';
import { SwitchProperty, TextProperty, useChange } from '../plan/panels/properties.tsx';
import { useSession } from '../session/queries.ts';
import { TemplateField } from '../templates/TemplateField.tsx';
import classes from './Consequences.module.css';
import type { Item } from './listing.ts';
import { WhenProperty } from './WhenProperty.tsx';

type Acknowledgement = Workflow['handOffs'][number]['acknowledgements'][number];

/** Who is here: the analyst, saying what whoever pressed reads afterwards. */
export function AnswerPanel({ item }: { readonly item: Item }) {
  const { definition } = useDraft();
  const { workspace } = useSession();
  const change = useChange(item.path);
  const found = findPart(definition, item.path);
  if (found?.kind !== 'acknowledgement') return <p>This answer is gone.</p>;
  const answer = found.part as unknown as Acknowledgement;
  return (
    <>
      <TextProperty label="Name" value={answer.name} placeholder={answer.key} onKeep={(name) => change({ name })} />
      <WhenProperty path={item.path} when={answer.when} name={answer.name || answer.key} />
      <p className={classes.soft}>The first answer whose condition holds is read; the one without a condition when none does.</p>
      <TemplateField
        label="What is read"
        text={answer.text}
        path={within(item.path, 'text')}
        onKeep={(text) => change({ text })}
      />
      <TextProperty
        label="Next page"
        isCode
        value={answer.next}
        placeholder="none"
        note={
          workspace.nextPages.length === 0
            ? 'The workspace allows none yet: an administrator adds them under Dispatch, Outlets.'
            : `Offered below it. One of ${workspace.nextPages.join(', ')}, and what lies below; values in double braces.`
        }
        onKeep={(next) => change({ next })}
      />
      <SwitchProperty label="Mailed to whoever pressed as well" value={answer.mailed} onKeep={(mailed) => change({ mailed })} />
    </>
  );
}
