import type { BodyOf, HandedOnRow, OfferedHandOffs } from '@ypomet/contract';
import type { Actor } from '@ypomet/core';
import { refusalOf } from './refusals.ts';
import type { RecordService } from './service.ts';

const NOTHING = { stageName: null, revision: null, wouldSend: 0, wouldOpen: 0, issues: [] };
type One = BodyOf<'handOnMany'>['records'][number];

/** The hand-offs that an actor may press on records, in the records' order; what they can't see is left out. */
export async function offeredHandOffs(service: RecordService, ids: readonly string[], actor: Actor): Promise<OfferedHandOffs[]> {
  const offered: OfferedHandOffs[] = [];
  for (const id of new Set(ids)) {
    const one = await service.offered(id, actor).catch((error: unknown) => {
      refusalOf(error);
      return null;
    });
    if (one) offered.push(one);
  }
  return offered;
}

/**
 * Hands records on, with the same values entered for each, or tries out what that would come to, as pressing the hand-off on each does: in order, each by
 * itself. What refuses one is told with it; what stops the server stops the whole, and the same can be sent again.
 */
export async function handOnMany(
  service: RecordService,
  { handOff, run, isTrial, values, records }: BodyOf<'handOnMany'>,
  actor: Actor,
): Promise<HandedOnRow[]> {
  const act = async ({ id, revision }: One): Promise<Omit<HandedOnRow, 'id'>> => {
    if (isTrial) {
      const { handedOn, stageName } = await service.tryHandOn(id, revision, handOff, values, actor);
      const { deliveries, followUps } = handedOn;
      return { ...NOTHING, isHandedOn: true, stageName, wouldSend: deliveries.length, wouldOpen: followUps.length };
    }
    const request = { actor, idempotencyKey: `many-${run}-${id}` };
    const { record, opened, opening } = await service.handOn(id, revision, handOff, values, request, { mayBeTakenBack: true });
    const isReversible = opened.length + opening === 0;
    return { ...NOTHING, isHandedOn: true, stageName: record.stageName, revision: isReversible ? record.revision : null };
  };
  const told: HandedOnRow[] = [];
  for (const one of records) {
    const came = await act(one).catch((error: unknown) => ({ ...NOTHING, isHandedOn: false, issues: refusalOf(error) }));
    told.push({ id: one.id, ...came });
  }
  return told;
}
