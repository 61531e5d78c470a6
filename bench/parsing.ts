import { checkExpression, compileExpression, makeScope, parseExpression, TYPES, type Typing, typing } from '@ypomet/core';
import { parser } from 'lezer-feel';
import { milliseconds } from './measure.ts';
import { makeRandom } from './random.ts';
import type { Figure } from './report.ts';

const EXPRESSIONS = 2000;
const FIELDS = 100;

function makeTexts(count: number): readonly string[] {
  const random = makeRandom(13);
  const pick = (below: number): number => Math.floor(random() * below);
  const field = (): string => `f${pick(FIELDS)}`;
  const shapes: readonly (() => string)[] = [
    () => `${field()} > ${pick(10_000) / 100}`,
    () => `${field()} between ${pick(50)} and ${50 + pick(50)}`,
    () => `(${field()} > ${pick(100)} or ${field()} <= ${pick(100)}) and ${field()} != null`,
    () => `if ${field()} > ${field()} then ${field()} * 2 > 10 else not(${field()} = 3)`,
    () => `some r in [${field()}, ${field()}, ${field()}] satisfies r >= ${pick(100)}`,
    () => `sum([${field()}, ${field()}]) + ${field()} * 1.2 < ${pick(1000)}`,
    () => `${field()} in (${pick(10)}, ${pick(10)}, [${pick(10)}..${10 + pick(10)}])`,
  ];
  return Array.from({ length: count }, (_, index) => (shapes[index % shapes.length] as () => string)());
}

/** Reading, typing and compiling expressions; lezer-feel only reads. */
export function benchParsing(): readonly Figure[] {
  const scope = makeScope(
    Object.fromEntries(Array.from({ length: FIELDS }, (_, index): [string, Typing] => [`f${index}`, typing(TYPES.number, true)])),
  );
  const compileAll = (texts: readonly string[]): void => {
    for (const text of texts) {
      const parsed = parseExpression(text);
      if (!parsed.ok) throw new Error(text);
      const checked = checkExpression(parsed.value, scope);
      if (checked.diagnostics.length > 0) throw new Error(text);
      compileExpression(checked);
    }
  };
  const texts = makeTexts(EXPRESSIONS);
  const many = makeTexts(EXPRESSIONS * 10);
  const ours = milliseconds(1, () => compileAll(texts));
  const tenfold = milliseconds(1, () => compileAll(many));
  const sample = texts.slice(0, 200);
  const elsewhere = milliseconds(1, () => {
    for (const text of sample) parser.parse(text);
  });
  return [
    { what: 'parse, type, compile 2,000 expressions', value: ours, unit: 'ms', bar: { below: 250 } },
    { what: 'lezer-feel, parse alone, over ours whole', value: (elsewhere * 10) / ours, unit: 'times', bar: null },
    { what: 'ten times as many', value: tenfold / ours, unit: 'times', bar: { below: 15 } },
  ];
}
