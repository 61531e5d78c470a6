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
      ['Alt Shift R', 'rehearse beside the plan'],
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
    'In a condition',
    [
      ['↑ ↓ ← →', 'from line to line, to the group around, into it'],
      ['Enter', 'edit the clause; Escape closes it'],
      ['+  *', 'add a clause, a group'],
      ['(  [  )', 'put into “any of”, into “all of”, take the group away'],
      ['!', 'turn into the opposite'],
      ['A O N', 'on a group: all of, any of, none of'],
      ['Alt ↑ ↓ ← →', 'move up, down, out of the group, into the one above'],
      ['Ctrl C, Ctrl X, Ctrl V', 'copy, cut and paste, as text'],
      ['Alt E', 'as text, and back'],
      ['Ctrl Space', 'in the text: what can be written here'],
      ['Alt Shift F', 'in the text: laid out on lines'],
    ],
  ],
  [
    'In a decision table',
    [
      ['← ↑ → ↓', 'move; with Shift a range is selected'],
      ['Enter', 'edit the cell; typing replaces it'],
      ['Ctrl D', 'fill down'],
      ['Insert', 'a rule below; with Shift above'],
      ['Ctrl Delete', 'delete the rules of the range'],
      ['Alt ↑, Alt ↓', 'move the rules'],
      ['Ctrl C, Ctrl V', 'copy and paste, to and from a spreadsheet'],
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
