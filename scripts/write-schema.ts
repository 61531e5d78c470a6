import { writeFileSync } from 'node:fs';
import { conformanceJsonSchema } from '@ypomet/conform/format';
import { PROBLEM_STATUS, SERVER_EN } from '@ypomet/contract';
import { DIAGNOSTIC_CODES, describeBuiltin, describeType, EN, isFault, listAllBuiltins, workflowJsonSchema } from '@ypomet/core';

/** Writes what is made from the code: the JSON Schemas of the files people write, and the table of errors. */
writeFileSync('docs/schemas/workflow.json', `${JSON.stringify(workflowJsonSchema(), null, 2)}\n`);
writeFileSync('docs/schemas/conformance.json', `${JSON.stringify(conformanceJsonSchema(), null, 2)}\n`);

const rows = (
  table: Readonly<
    Record<
      string,
      {
        readonly text?: string;
        readonly title?: string;
        readonly status?: number;
        readonly level?: string;
        readonly mend: string;
      }
    >
  >,
): string =>
  Object.entries(table)
    .map(
      ([code, entry]) =>
        `| \`${code}\` | ${entry.status ?? entry.level ?? ''} | ${(entry.text ?? entry.title ?? '').replaceAll('|', '\\|')} | ${entry.mend.replaceAll('|', '\\|')} |`,
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
${rows(Object.fromEntries(Object.entries(SERVER_EN.problems).map(([code, entry]) => [code, { ...entry, status: PROBLEM_STATUS[code as keyof typeof PROBLEM_STATUS] }])))}

## The core
In a problem's \`details\`, and beside what they concern in the designer.

| code | | says | how to mend |
|---|---|---|---|
${rows(Object.fromEntries(DIAGNOSTIC_CODES.map((code) => [code, { ...EN.messages[code], level: isFault({ code }) ? '' : 'warning' }])))}
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
    ({ name, signatures, clause }) =>
      `| ${signatures.map((one) => wayOf(name, one)).join('<br>')} | ${describeBuiltin(name)} | ${clause} |`,
  )
  .sort()
  .join('\n')}
`,
);
