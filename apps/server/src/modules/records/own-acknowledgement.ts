import { type Actor, type CompiledWorkflow, fillAcknowledgement, type HandedOn } from '@ypomet/core';
import type { Lookups } from './lookups.ts';

/** What was decided, with another text to be read than the hand-off's own; an empty one leaves that. */
export async function withAcknowledgement(
  workflow: CompiledWorkflow,
  handedOn: HandedOn,
  text: string,
  actor: Actor,
  lookups: Lookups,
): Promise<HandedOn> {
  if (text === '') return handedOn;
  const filled = await lookups.settle(() => fillAcknowledgement(workflow, text, handedOn.record, actor, lookups.outside));
  const next = handedOn.acknowledgement?.next ?? null;
  return { ...handedOn, acknowledgement: { acknowledgement: '', text: filled, next } };
}
