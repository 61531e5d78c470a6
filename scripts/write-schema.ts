import { writeFileSync } from 'node:fs';
import { PROBLEMS } from '@ypomet/contract';
import { describeType, listAllBuiltins, MESSAGES, workflowJsonSchema } from '@ypomet/core';
import { conformanceJsonSchema } from '@ypomet/testkit/conform/format';

/** Writes what is made from the code: the JSON Schemas of the files people write, and the table of errors. */
writeFileSync('docs/schemas/workflow.json', `${JSON.stringify(workflowJsonSchema(), null, 2)}\n`);
writeFileSync('docs/schemas/conformance.json', `${JSON.stringify(conformanceJsonSchema(), null, 2)}\n`);

const rows = (
  table: Readonly<
    Record<string, { readonly text?: string; readonly title?: string; readonly status?: number; readonly mend: string }>
  >,
): string =>
  Object.entries(table)
    .map(
      ([code, entry]) =>
        `| \`${code}\` | ${entry.status ?? ''} | ${(entry.text ?? entry.title ?? '').replaceAll('|', '\\|')} | ${entry.mend.replaceAll('|', '\\|')} |`,
    )
    .join('\n');

writeFileSync(
  'docs/errors.md',
  `# Errors

Every error has a stable code, a sentence, a path and a way to mend it. This page is made by \`npm run schema\`.

## The HTTP contract
Problem details (RFC 9457), media type \`application/problem+json\`.

| code | status | says | how to mend |
|---|---|---|---|
${rows(PROBLEMS)}

## The core
In a problem's \`details\`, and beside what they concern in the designer.

| code | | says | how to mend |
|---|---|---|---|
${rows(MESSAGES)}
`,
);

const wayOf = (
  name: string,
  { parameters, variadic, result }: ReturnType<typeof listAllBuiltins>[number]['signatures'][number],
): string => {
  const given = parameters.map((one) => `${one.name}${one.optional ? '?' : ''}: ${describeType(one.type)}`);
  const type =
    typeof result === 'function'
      ? describeType(result(parameters.map((one) => ({ type: one.type, nullable: true }))))
      : describeType(result);
  return `\`${name}(${given.join(', ')}${variadic ? ', …' : ''})\` gives ${type}`;
};

writeFileSync(
  'docs/built-ins.md',
  `# Built-ins

The functions of [expressions](expressions.md), with the clause of OMG DMN 1.3 (or later, where named) that defines each. A
question mark marks an argument that may be left out, an ellipsis one that may be repeated. This page is made by
\`npm run schema\`.

| | what it gives | clause |
|---|---|---|
${listAllBuiltins()
  .map(
    ({ name, signatures, summary, clause }) =>
      `| ${signatures.map((one) => wayOf(name, one)).join('<br>')} | ${summary} | ${clause} |`,
  )
  .sort()
  .join('\n')}
`,
);
