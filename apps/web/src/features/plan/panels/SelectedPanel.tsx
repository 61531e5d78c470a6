import { LaterDraft } from '../../drafts/draft-context.tsx';
import type { Selection } from '../selection.ts';
import { AddFieldsPanel } from './AddFieldsPanel.tsx';
import { AdjustmentPanel } from './AdjustmentPanel.tsx';
import { BranchPanel } from './BranchPanel.tsx';
import { CellPanel, CellsPanel, SubmitterPanel } from './CellPanel.tsx';
import { FieldPanel } from './FieldPanel.tsx';
import { HandOffPanel } from './HandOffPanel.tsx';
import { StagePanel } from './StagePanel.tsx';

/** Edits what is selected. */
export function SelectedPanel({
  selection,
  onSelect,
}: {
  readonly selection: Exclude<Selection, { kind: 'nothing' }>;
  readonly onSelect: (selection: Selection) => void;
}) {
  switch (selection.kind) {
    case 'stage':
      return <StagePanel key={selection.stage} stage={selection.stage} onSelect={onSelect} />;
    case 'hand-off':
      return <HandOffPanel key={selection.handOff} handOff={selection.handOff} onSelect={onSelect} />;
    case 'branch': {
      const { handOff, branch } = selection;
      return <BranchPanel key={`${handOff}/${branch}`} handOff={handOff} branch={branch} onSelect={onSelect} />;
    }
    case 'adjustment':
      return <AdjustmentPanel key={selection.adjustment} adjustment={selection.adjustment} onSelect={onSelect} />;
    case 'field':
      return <FieldPanel key={selection.field} field={selection.field} onSelect={onSelect} />;
    case 'add-fields':
      return <AddFieldsPanel key={JSON.stringify(selection.to)} to={selection.to} onSelect={onSelect} />;
    case 'cell':
      return (
        <LaterDraft>
          <CellPanel selection={selection} onSelect={onSelect} />
        </LaterDraft>
      );
    case 'cells':
      return (
        <LaterDraft>
          <CellsPanel selection={selection} onSelect={onSelect} />
        </LaterDraft>
      );
    case 'submitter':
      return (
        <LaterDraft>
          <SubmitterPanel field={selection.field} />
        </LaterDraft>
      );
    default:
      return selection satisfies never;
  }
}
