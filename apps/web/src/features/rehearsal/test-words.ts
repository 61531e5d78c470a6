import { type CompiledWorkflow, findField, findStage, type OutcomeDifference, splitFieldPath } from '@ypomet/core';

type Names = Pick<CompiledWorkflow, 'definition' | 'findWorkflow'>;

/** In what a test's outcome differs, in a sentence. */
export function differenceWords({ step, what, key, expected, found }: OutcomeDifference, workflow: Names): string {
  const { definition } = workflow;
  const stage = (own: string | null): string =>
    own === null ? 'nowhere, it is refused' : (findStage(definition, own)?.name ?? own);
  const at = `Step ${step}: `;
  switch (what) {
    case 'to':
      return `${at}went to ${stage(expected)}, now goes to ${stage(found)}.`;
    case 'treatment':
      return `${at}${key === null ? 'the form' : fieldWords(key, workflow)} was ${expected ?? 'as planned'}, now is ${found ?? 'as planned'}.`;
    case 'sent':
      return `${at}now sends ${deliveryWords(found ?? '', workflow)}.`;
    case 'not-sent':
      return `${at}no longer sends ${deliveryWords(expected ?? '', workflow)}.`;
    case 'opened':
      return `${at}now opens ${openedWords(found ?? '', workflow)}.`;
    case 'not-opened':
      return `${at}no longer opens ${openedWords(expected ?? '', workflow)}.`;
    case 'answer':
      return `${at}said “${expected ?? 'nothing'}”, now says “${found ?? 'nothing'}”.`;
    case 'not-reached':
      return `${at}is no longer reached.`;
    default:
      return what satisfies never;
  }
}

/** Returns the name of a field, or of a sub-field after its table's name. A deleted field is called by its key. */
function fieldWords(path: string, { definition }: Names): string {
  const { field: key, sub } = splitFieldPath(path);
  const field = findField(definition, key);
  if (!field || sub === null) return field?.name ?? path;
  const cell = field.type === 'table' ? field.fields.find((own) => own.key === sub) : undefined;
  return `${field.name}: ${cell?.name ?? sub}`;
}

/** Returns a delivery as a test stores it, `name → receivers: subject`, with each role's key replaced by its name. */
function deliveryWords(kept: string, { definition }: Names): string {
  const parts = /^(.*? → )(.*?)(: .*)$/s.exec(kept);
  if (!parts) return kept;
  const [, name = '', receivers = '', rest = ''] = parts;
  const named = receivers.split(', ').map((one) => definition.roles.find(({ key }) => key === one)?.name ?? one);
  return `${name}${named.join(', ')}${rest}`;
}

/** Returns a follow-up as a test stores it, `workflow by hand-off for row id`, with the keys replaced by names. */
function openedWords(kept: string, { findWorkflow }: Names): string {
  const parts = /^(\S+) by (\S+)( for row .*)?$/s.exec(kept);
  const [, workflow = '', handOff = '', row] = parts ?? [];
  const target = findWorkflow(workflow);
  if (!target) return kept;
  const by = target.handOffs.find(({ key }) => key === handOff)?.name ?? handOff;
  return `${target.name} by “${by}”${row === undefined ? '' : ', for one row'}`;
}
