import { describeExpression, describeOutline, type EditSentence, parseExpression, readOutline, type Wording } from '@ypomet/core';

/** An expression's text as a sentence; the text itself where it can't be read. */
export function sayExpression(text: string, wording: Wording): string {
  const parsed = parseExpression(text);
  if (!parsed.ok) return text;
  const item = readOutline(parsed.value);
  return item.kind === 'text' ? describeExpression(parsed.value, wording) : describeOutline(item, wording);
}

/** What an expression's text comes to, in words: of a value, where `sayExpression` takes it for a condition. */
export function sayValue(text: string, wording: Wording): string {
  const parsed = parseExpression(text);
  return parsed.ok ? describeExpression(parsed.value, wording) : text;
}

/** An edit's sentence with the expression that was set in words. */
export const saidInWords = (sentence: EditSentence, wording: Wording): EditSentence =>
  sentence.code === 'change-text' && typeof sentence.params.text === 'string'
    ? { ...sentence, params: { ...sentence.params, text: sayExpression(sentence.params.text, wording) } }
    : sentence;
