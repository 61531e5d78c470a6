import { Menu, UnstyledButton } from '@mantine/core';
import { defaultRangeExtractor, type Range, useVirtualizer } from '@tanstack/react-virtual';
import { type DecisionTable, describeDiagnostic, type Edit, joinPath, type TriedDecision } from '@ypomet/core';
import Papa from 'papaparse';
import { type ClipboardEvent, type KeyboardEvent, useCallback, useLayoutEffect, useRef, useState } from 'react';
import { Mark } from '../conditions/Mark.tsx';
import { useDraft } from '../drafts/draft-context.tsx';
import { CellInput } from './CellInput.tsx';
import { faultsOfCell } from './cell-text.ts';
import { readCell, showCell } from './cells.ts';
import classes from './TableGrid.module.css';
import { TableRow } from './TableRow.tsx';
import { ruleKeys, textOfCell, type WrittenCell, writeCells } from './table-edits.ts';
import type { TableColumn } from './use-columns.ts';

type Props = {
  readonly table: DecisionTable;
  readonly columns: readonly TableColumn[];
  /** How the rules stand for the row that is tried; null while none is. */
  readonly tried: TriedDecision | null;
  readonly onHead: (column: TableColumn) => void;
  /** What was left out of what was pasted, in a sentence. */
  readonly onLeftOut: (message: string | null) => void;
};

type At = { readonly row: number; readonly column: number };
const ROW_HEIGHT = 30;
const MAX_RULES = 5000;

const keeping =
  (index: number) =>
  (range: Range): number[] => {
    const found = defaultRangeExtractor(range);
    return index < 0 || found.includes(index) ? found : [...found, index].sort((a, b) => a - b);
  };

/**
 * The rules of a decision table as a sheet: arrows move, shift extends, typing replaces, Enter and F2 edit, Ctrl D fills down, copy
 * and paste go to and from spreadsheets. What isn't sound says why as it is typed, and isn't kept.
 */
export function TableGrid({ table, columns, tried, onHead, onLeftOut }: Props) {
  const { store } = useDraft();
  const [cursor, setCursor] = useState<At>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<At>(cursor);
  const [editing, setEditing] = useState<string | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const hasFocus = useRef(false);
  const { rules } = table;
  const at = { row: Math.min(cursor.row, Math.max(0, rules.length - 1)), column: Math.min(cursor.column, columns.length - 1) };
  const virtual = useVirtualizer({
    count: rules.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    getItemKey: (index) => rules[index]?.key ?? index,
    overscan: 8,
    rangeExtractor: keeping(at.row),
  });
  useLayoutEffect(() => {
    if (!hasFocus.current || editing !== null) return;
    virtual.scrollToIndex(at.row, { align: 'auto' });
    scroller.current?.querySelector<HTMLElement>(`[data-at="${at.row}/${at.column}"]`)?.focus({ preventScroll: false });
  }, [at.row, at.column, editing, virtual]);
  const range = {
    top: Math.min(at.row, anchor.row),
    bottom: Math.min(rules.length - 1, Math.max(at.row, anchor.row)),
    left: Math.min(at.column, anchor.column),
    right: Math.max(at.column, anchor.column),
  };
  const edit = (change: Edit | null): void => {
    if (change) store.edit(change);
  };
  const stand = (row: number, column: number, extends_ = false): void => {
    hasFocus.current = true;
    setEditing(null);
    const to = { row: Math.max(0, Math.min(rules.length - 1, row)), column: Math.max(0, Math.min(columns.length - 1, column)) };
    setCursor(to);
    if (!extends_) setAnchor(to);
  };
  const press = useRef(stand);
  press.current = stand;
  const onPress = useCallback((row: number, column: number, extends_: boolean) => press.current(row, column, extends_), []);
  /** Whether the cell was opened with the pointer: its text is then selected, so that typing replaces it instead of adding to it. */
  const [isOpenedByPointer, setOpenedByPointer] = useState(false);
  const open = useRef<(row: number, column: number, isByPointer: boolean) => void>(() => undefined);
  open.current = (row, column, isByPointer) => {
    stand(row, column);
    setOpenedByPointer(isByPointer);
    const own = columns[column];
    const rule = rules[row];
    if (own && rule) setEditing(showCell(textOfCell(rule, own.at), own));
  };
  const onOpen = useCallback((row: number, column: number) => open.current(row, column, true), []);
  const type = (typed: string): void => {
    setOpenedByPointer(false);
    setEditing(typed);
  };
  const finish = (typed: string, move: readonly [number, number]): void => {
    const [own, rule] = [columns[at.column], rules[at.row]];
    if (own && rule) edit(writeCells(table, [{ rule: rule.key, at: own.at, text: readCell(typed, own) }]));
    hasFocus.current = true;
    setEditing(null);
    stand(at.row + move[0], at.column + move[1]);
  };
  const cells = (): readonly { readonly row: number; readonly column: number }[] =>
    Array.from({ length: range.bottom - range.top + 1 }, (_, down) =>
      Array.from({ length: range.right - range.left + 1 }, (__, right) => ({
        row: range.top + down,
        column: range.left + right,
      })),
    ).flat();
  const clear = (): void => {
    const written = cells().flatMap(({ row, column }): readonly WrittenCell[] => {
      const [rule, own] = [rules[row], columns[column]];
      return rule && own ? [{ rule: rule.key, at: own.at, text: null }] : [];
    });
    edit(writeCells(table, written));
  };
  const fillDown = (): void => {
    const written = cells().flatMap(({ row, column }): readonly WrittenCell[] => {
      const [rule, own] = [rules[row], columns[column]];
      const source = rules[range.top === range.bottom ? row - 1 : range.top];
      return rule && own && source ? [{ rule: rule.key, at: own.at, text: textOfCell(source, own.at) ?? null }] : [];
    });
    edit(writeCells(table, written));
  };
  const part = joinPath('decisionTables', table.key);
  const insert = (below: boolean): void => {
    const [key = ''] = ruleKeys(table, 1);
    const before = rules[at.row + (below ? 1 : 0)]?.key ?? null;
    edit({ type: 'add-part', to: `${part}.rules`, part: { key, when: {}, then: {} }, before });
    hasFocus.current = true;
    setCursor({ row: rules.length === 0 ? 0 : at.row + (below ? 1 : 0), column: at.column });
    setAnchor({ row: rules.length === 0 ? 0 : at.row + (below ? 1 : 0), column: at.column });
  };
  const ranged = (): readonly string[] => rules.slice(range.top, range.bottom + 1).map(({ key }) => key);
  const together = (edits: readonly Edit[]): void => {
    const [only] = edits;
    if (only) edit(edits.length === 1 ? only : { type: 'together', edits });
  };
  const remove = (): void => {
    together(
      ranged().map(
        (key): Edit => ({ type: 'delete-part', part: joinPath('decisionTables', table.key, 'rules', key), withUses: true }),
      ),
    );
    stand(range.top, at.column);
  };
  const move = (by: -1 | 1): void => {
    const keys = ranged();
    const before = by < 0 ? rules[range.top - 1]?.key : (rules[range.bottom + 2]?.key ?? null);
    if (before === undefined || (by > 0 && range.bottom >= rules.length - 1)) return;
    together(keys.map((key): Edit => ({ type: 'move-part', part: joinPath('decisionTables', table.key, 'rules', key), before })));
    hasFocus.current = true;
    setCursor({ ...at, row: at.row + by });
    setAnchor({ ...anchor, row: anchor.row + by });
  };
  const onKey = (event: KeyboardEvent): void => {
    if (editing !== null || (event.target as HTMLElement).getAttribute('role') !== 'gridcell') return;
    const isCommand = event.ctrlKey || event.metaKey;
    const steps: Readonly<Record<string, readonly [number, number]>> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      PageUp: [-12, 0],
      PageDown: [12, 0],
      Home: [isCommand ? -MAX_RULES : 0, -999],
      End: [isCommand ? MAX_RULES : 0, 999],
    };
    const step = steps[event.key];
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) move(event.key === 'ArrowUp' ? -1 : 1);
    else if (step) stand(at.row + step[0], at.column + step[1], event.shiftKey);
    else if (event.key === 'Enter' || event.key === 'F2') open.current(at.row, at.column, false);
    else if (isCommand && event.key.toLowerCase() === 'd') fillDown();
    else if (event.key === 'Insert') insert(!event.shiftKey);
    else if (isCommand && (event.key === 'Delete' || event.key === 'Backspace')) remove();
    else if (event.key === 'Delete' || event.key === 'Backspace') clear();
    else if (!isCommand && !event.altKey && event.key.length === 1) type(event.key);
    else {
      // A dead key (an accent) or an input method starts a character here: open the cell now, so that it is composed in the input.
      if (event.key === 'Dead' || event.key === 'Process') type('');
      return;
    }
    event.preventDefault();
  };
  const onCopy = (event: ClipboardEvent): void => {
    if (editing !== null) return;
    const lines = rules
      .slice(range.top, range.bottom + 1)
      .map((rule) => columns.slice(range.left, range.right + 1).map((own) => showCell(textOfCell(rule, own.at), own)));
    event.clipboardData.setData('text/plain', Papa.unparse(lines, { delimiter: '\t', newline: '\n' }));
    event.preventDefault();
    if (event.type === 'cut') clear();
  };
  const onPaste = (event: ClipboardEvent): void => {
    if (editing !== null) return;
    event.preventDefault();
    const text = event.clipboardData.getData('text/plain').replace(/\r?\n$/, '');
    const lines = Papa.parse<string[]>(text, { delimiter: '\t' }).data;
    const room = MAX_RULES - range.top;
    const keys = ruleKeys(table, Math.max(0, Math.min(room, range.top + lines.length) - rules.length));
    const written: WrittenCell[] = [];
    const refused: string[] = [];
    lines.slice(0, room).forEach((line, down) => {
      const rule = rules[range.top + down]?.key ?? keys[range.top + down - rules.length];
      line.forEach((typed, right) => {
        const own = columns[range.left + right];
        if (!own || rule === undefined) return;
        const stored = readCell(typed, own);
        const [fault] = own.at.side === 'notes' ? [] : faultsOfCell(stored, own.at.side, own.expression, own.column);
        if (fault) refused.push(`line ${down + 1}, ${own.name}: “${typed.slice(0, 40)}”`);
        else written.push({ rule, at: own.at, text: stored });
      });
    });
    const tooMany = Math.max(0, Math.max(...lines.map((line) => line.length)) - (columns.length - range.left));
    edit(writeCells(table, written, keys));
    const told = [
      ...(refused.length > 0
        ? [
            `Not taken, as they mean nothing here: ${refused.slice(0, 4).join('; ')}${refused.length > 4 ? ` and ${refused.length - 4} more` : ''}.`,
          ]
        : []),
      ...(tooMany > 0 ? [`${tooMany} columns had no place and were left out.`] : []),
      ...(lines.length > room ? [`A table has at most ${MAX_RULES} rules; ${lines.length - room} lines were left out.`] : []),
    ];
    onLeftOut(told.length > 0 ? told.join(' ') : null);
  };
  const template = `44px repeat(${columns.length}, minmax(120px, 1fr))`;
  const own = columns[at.column];
  return (
    <div className={classes.sheet}>
      <div
        ref={scroller}
        className={classes.scroller}
        role="grid"
        aria-label={`Rules of ${table.name}`}
        aria-rowcount={rules.length + 1}
        aria-colcount={columns.length + 1}
        aria-multiselectable="true"
        tabIndex={rules.length === 0 ? 0 : -1}
        onKeyDown={onKey}
        onCopy={onCopy}
        onCut={onCopy}
        onPaste={onPaste}
        onBlur={(event) => {
          if (!event.currentTarget.contains(event.relatedTarget)) hasFocus.current = false;
        }}
      >
        <div className={classes.head} role="row" aria-rowindex={1} tabIndex={-1} style={{ gridTemplateColumns: template }}>
          <span role="columnheader" tabIndex={-1} aria-label="Rule" />
          {columns.map((column) => (
            <span key={`${column.at.side}/${column.at.key}`} role="columnheader" tabIndex={-1} data-side={column.at.side}>
              {column.at.side === 'notes' ? (
                column.name
              ) : (
                <UnstyledButton className={classes.headName} onClick={() => onHead(column)}>
                  {column.name}
                </UnstyledButton>
              )}
            </span>
          ))}
        </div>
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const rule = rules[item.index];
            if (!rule) return null;
            const isRanged = item.index >= range.top && item.index <= range.bottom;
            return (
              <TableRow
                key={item.key}
                rule={rule}
                columns={columns}
                index={item.index}
                top={item.start}
                template={template}
                cursor={item.index === at.row ? at.column : -1}
                from={isRanged ? range.left : -1}
                to={isRanged ? range.right : -1}
                tried={tried?.rules[item.index] ?? null}
                onPress={onPress}
                onOpen={onOpen}
                editor={
                  editing !== null && item.index === at.row && own ? (
                    <CellInput
                      column={own}
                      typed={editing}
                      isSelected={isOpenedByPointer}
                      onType={setEditing}
                      onDone={finish}
                      onCancel={() => {
                        hasFocus.current = true;
                        setEditing(null);
                      }}
                      onLeft={(typed) => {
                        setEditing(null);
                        onLeftOut(
                          `Not kept: “${typed.slice(0, 60)}” in rule ${at.row + 1}, ${own.name}. It means nothing there.`,
                        );
                      }}
                    />
                  ) : null
                }
              />
            );
          })}
        </div>
        {rules.length === 0 && <p className={classes.empty}>No rules yet. Add one, or paste lines from a spreadsheet here.</p>}
      </div>
      <div className={classes.foot}>
        <UnstyledButton className={classes.action} onClick={() => insert(true)}>
          + rule
        </UnstyledButton>
        <Menu position="top-start" withinPortal>
          <Menu.Target>
            <UnstyledButton className={classes.action}>Rules …</UnstyledButton>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item rightSection={<kbd>Shift Insert</kbd>} onClick={() => insert(false)}>
              Put one in above
            </Menu.Item>
            <Menu.Item rightSection={<kbd>Insert</kbd>} onClick={() => insert(true)}>
              Put one in below
            </Menu.Item>
            <Menu.Item rightSection={<kbd>Ctrl D</kbd>} onClick={fillDown}>
              Fill down
            </Menu.Item>
            <Menu.Item rightSection={<kbd>Alt ↑</kbd>} onClick={() => move(-1)}>
              Move up
            </Menu.Item>
            <Menu.Item rightSection={<kbd>Alt ↓</kbd>} onClick={() => move(1)}>
              Move down
            </Menu.Item>
            <Menu.Item rightSection={<kbd>Ctrl Del</kbd>} onClick={remove}>
              Delete
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
        <span className={classes.count}>
          {rules.length} {rules.length === 1 ? 'rule' : 'rules'}
          {tried && (
            <>
              {' · '}
              {tried.rules.filter(({ fires }) => fires).length} fire <Mark truth={tried.decision.matched.length > 0} />
            </>
          )}
        </span>
        <Fault rules={table.rules} at={at} columns={columns} typed={editing} />
      </div>
    </div>
  );
}

/** What is wrong with the cell under the cursor, as it is typed. */
function Fault({
  rules,
  at,
  columns,
  typed,
}: {
  readonly rules: DecisionTable['rules'];
  readonly at: At;
  readonly columns: readonly TableColumn[];
  readonly typed: string | null;
}) {
  const [own, rule] = [columns[at.column], rules[at.row]];
  if (!own || !rule || own.at.side === 'notes') return null;
  const stored = typed === null ? (textOfCell(rule, own.at) ?? null) : readCell(typed, own);
  const [fault] = faultsOfCell(stored, own.at.side, own.expression, own.column);
  return fault ? (
    <span className={classes.fault} role="status">
      {describeDiagnostic(fault)}
    </span>
  ) : null;
}
