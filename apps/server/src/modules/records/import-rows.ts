import { type BodyOf, type ImportedRow, type ProblemDetail, SERVER_EN } from '@ypomet/contract';
import { type Actor, type Json, splitFieldPath } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import type { MailHandling } from '../../db/schema.ts';
import { findByName } from './choices.ts';
import { refusalOf } from './refusals.ts';
import type { RecordService } from './service.ts';

type Place = { readonly key: string; readonly stage: string };
type Row = BodyOf<'importRows'>['rows'][number];
type Cells = Readonly<Record<string, unknown>>;
/** What the names in a column stand for. */
type Named = { readonly path: string; readonly field: string; readonly ids: ReadonlyMap<string, string | null> };

/** Characters of a name that an issue repeats. */
const MAX_TOLD = 40;
const NOTHING = { number: null, stageName: null, wouldSend: 0, wouldOpen: 0, issues: [] };

/**
 * Begins a record for each row, or tries out what that would come to, as beginning one by hand does: in order, each by
 * itself. What refuses a row is told with it; what stops the server stops the whole, and the same rows can be sent again.
 */
export async function importRows(
  context: ServerContext,
  service: RecordService,
  place: Place,
  { handOff, run, isTrial, mails, byName, rows }: BodyOf<'importRows'>,
  actor: Actor,
): Promise<ImportedRow[]> {
  const named: Named[] = [];
  for (const path of byName) {
    const field = await service.choosableAt(place.key, place.stage, path, actor);
    const names = new Set(rows.flatMap(({ values }) => textsAt(values, path)));
    named.push({ path, field: field.name, ids: await findByName(context, field, [...names], actor) });
  }
  const handling = handlingOf(mails, run, actor);
  const begin = async (line: number, values: Row['values']): Promise<Omit<ImportedRow, 'line'>> => {
    if (isTrial) {
      const { record, deliveries, followUps } = await service.tryBegin(place.key, place.stage, handOff, values, actor);
      const stageName = await service.nameOfStage(place.key, record.stage);
      const sent = mails === 'none' ? deliveries.filter(({ type }) => type !== 'mail') : deliveries;
      return { ...NOTHING, isBegun: true, stageName, wouldSend: sent.length, wouldOpen: followUps.length };
    }
    const request = { actor, idempotencyKey: `import-${run}-${line}` };
    const { record } = await service.begin(place.key, place.stage, handOff, values, request, { mails: handling });
    return { ...NOTHING, isBegun: true, number: record.number, stageName: record.stageName };
  };
  const told: ImportedRow[] = [];
  for (const { line, values } of rows) {
    const { meant, issues } = withIds(values, named);
    const refused = { ...NOTHING, isBegun: false };
    if (issues.length > 0) told.push({ line, ...refused, issues });
    else {
      const came = await begin(line, meant).catch((error: unknown) => ({ ...refused, issues: refusalOf(error) }));
      told.push({ line, ...came });
    }
  }
  return told;
}

function handlingOf(mails: BodyOf<'importRows'>['mails'], run: string, actor: Actor): MailHandling | null {
  switch (mails) {
    case 'all':
      return null;
    case 'digest':
      return { kind: 'digest', run };
    case 'none':
      return { kind: 'put-away', by: actor.name };
    default:
      return mails satisfies never;
  }
}

/** The texts that a row has at a path: in a field, or in the cells of a table's rows. */
function textsAt(values: Cells, path: string): readonly string[] {
  const texts: string[] = [];
  mapAt(values, path, (text) => {
    texts.push(text);
    return text;
  });
  return texts;
}

/** A row's values with ids for names; where a name stands for nothing, or for several, that is told. */
function withIds(
  values: Row['values'],
  named: readonly Named[],
): { readonly meant: Row['values']; readonly issues: ProblemDetail[] } {
  const issues: ProblemDetail[] = [];
  let meant: Cells = values;
  for (const { path, field, ids } of named)
    meant = mapAt(meant, path, (name) => {
      const id = ids.get(name);
      if (typeof id !== 'string') issues.push(issueOf(id === null ? 'several-named' : 'none-named', path, field, name));
      return id ?? name;
    });
  return { meant: meant as Row['values'], issues };
}

/** The values with the texts at a path changed; what isn't a text there is left to the form to refuse. */
function mapAt(values: Cells, path: string, change: (text: string) => string): Cells {
  const { field, sub } = splitFieldPath(path);
  const at = (cells: Cells, key: string): Cells => {
    const text = Object.hasOwn(cells, key) ? cells[key] : undefined;
    return typeof text === 'string' ? { ...cells, [key]: change(text) } : cells;
  };
  if (sub === null) return at(values, field);
  const rows = Object.hasOwn(values, field) ? values[field] : undefined;
  if (!Array.isArray(rows)) return values;
  const changed = (rows as readonly Json[]).map((row) => {
    const cells = typeof row === 'object' && row !== null && 'values' in row ? row.values : null;
    return typeof cells === 'object' && cells !== null ? { ...(row as Cells), values: at(cells as Cells, sub) } : row;
  });
  return { ...values, [field]: changed };
}

function issueOf(reason: 'none-named' | 'several-named', path: string, field: string, name: string): ProblemDetail {
  const { field: of, sub } = splitFieldPath(path);
  const code = `import/${reason}` as const;
  const message = SERVER_EN.details[reason].replace('{field}', () => field).replace('{name}', () => name.slice(0, MAX_TOLD));
  const { mend } = SERVER_EN.problems[code];
  return { code, message, path, mend, params: { field, name }, field: of, row: null, subField: sub };
}
