import { Modal } from '@mantine/core';
import classes from './KeySheet.module.css';

/** Keys by where they work. */
const SHEET: readonly (readonly [string, readonly (readonly [string, string])[]])[] = [
  [
    'Anywhere',
    [
      ['Ctrl K', 'find anything: fields, stages, conditions, pages, commands'],
      ['?', 'this sheet'],
      ['Alt R', 'to the rehearsal, and back'],
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
    ],
  ],
  [
    'In the plan',
    [
      ['← ↑ → ↓', 'move; with Shift a range is selected'],
      ['R N O V H', 'required, nudged, optional, read-only, hidden'],
      ['Delete', 'back to what the field itself says'],
      ['Ctrl C, Ctrl V', 'copy and paste cells'],
      ['Alt ↑, Alt ↓', 'move the field, or the section, up or down'],
      ['Enter', 'open the field'],
      ['/', 'find a field'],
    ],
  ],
  [
    'On the map',
    [
      ['← →', 'from station to station'],
      ['Enter', 'open the stage'],
      ['H', 'draw a hand-off from here: then Enter at the stage it leads to'],
      ['Insert', 'put a stage into the line after this one'],
      ['Alt ← →', 'move the stage a column'],
      ['Alt ↑ ↓', 'move the stage to another track'],
      ['Escape', 'give up what is being drawn'],
    ],
  ],
];

/** The keys there are. */
export function KeySheet({ onClose }: { readonly onClose: () => void }) {
  return (
    <Modal opened onClose={onClose} title="Keys" size="lg" centered>
      {SHEET.map(([where, keys]) => (
        <section key={where} className={classes.part}>
          <h3>{where}</h3>
          <dl>
            {keys.map(([key, does]) => (
              <div key={key}>
                <dt>
                  <kbd className="mono">{key}</kbd>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </Modal>
  );
}
