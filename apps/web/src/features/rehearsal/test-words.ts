import { type CompiledWorkflow, findField, findStage, type OutcomeDifference } from '@ypomet/core';

/** In what a test's outcome differs, in a sentence. */
export function differenceWords(
  { step, what, key, expected, found }: OutcomeDifference,
  { definition }: Pick<CompiledWorkflow, 'definition'>,
): string {
  const stage = (own: string | null): string =>
    own === null ? 'nowhere, it is refused' : (findStage(definition, own)?.name ?? own);
  const at = `Step ${step}: `;
  switch (what) {
    case 'to':
      return `${at}went to ${stage(expected)}, now goes to ${stage(found)}.`;
    case 'treatment':
      return `${at}${(key && findField(definition, key)?.name) ?? key} was ${expected ?? 'as planned'}, now is ${found ?? 'as planned'}.`;
    case 'sent':
      return `${at}now sends ${found}.`;
    case 'not-sent':
      return `${at}no longer sends ${expected}.`;
    case 'opened':
      return `${at}now opens ${found}.`;
    case 'not-opened':
      return `${at}no longer opens ${expected}.`;
    case 'answer':
      return `${at}said “${expected ?? 'nothing'}”, now says “${found ?? 'nothing'}”.`;
    case 'not-reached':
      return `${at}is no longer reached.`;
    default:
      return what satisfies never;
  }
}
