import type { BodyOf, ImportedRow } from '@ypomet/contract';
import type { Actor } from '@ypomet/core';
import { refusalOf } from './refusals.ts';
import type { RecordService } from './service.ts';

type Place = { readonly key: string; readonly stage: string };
type Row = BodyOf<'importRows'>['rows'][number];

const NOTHING = { number: null, stageName: null, wouldSend: 0, wouldOpen: 0, issues: [] };

/**
 * Begins a record for each row, or tries out what that would come to, as beginning one by hand does: in order, each by
 * itself. What refuses a row is told with it; what stops the server stops the whole, and the same rows can be sent again.
 */
export async function importRows(
  service: RecordService,
  place: Place,
  { handOff, run, isTrial, rows }: BodyOf<'importRows'>,
  actor: Actor,
): Promise<ImportedRow[]> {
  const begin = async ({ line, values }: Row): Promise<Omit<ImportedRow, 'line'>> => {
    if (isTrial) {
      const { record, deliveries, followUps } = await service.tryBegin(place.key, place.stage, handOff, values, actor);
      const stageName = await service.nameOfStage(place.key, record.stage);
      return { ...NOTHING, isBegun: true, stageName, wouldSend: deliveries.length, wouldOpen: followUps.length };
    }
    const request = { actor, idempotencyKey: `import-${run}-${line}` };
    const { record } = await service.begin(place.key, place.stage, handOff, values, request);
    return { ...NOTHING, isBegun: true, number: record.number, stageName: record.stageName };
  };
  const told: ImportedRow[] = [];
  for (const row of rows) {
    const came = await begin(row).catch((error: unknown) => ({ ...NOTHING, isBegun: false, issues: refusalOf(error) }));
    told.push({ line: row.line, ...came });
  }
  return told;
}
