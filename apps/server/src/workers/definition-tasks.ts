import { EditsRequest, SERVER_EN } from '@ypomet/contract';
import {
  applyEdit,
  checkSurroundings,
  compileWorkflow,
  type Diagnostic,
  deliveriesOf,
  diagnostic,
  type Edit,
  isFault,
  joinPath,
  makeReadIn,
  type Openings,
  openingsOf,
  parseWorkflow,
  type Surroundings,
  termOfIssue,
  type Workflow,
  workflowsNamedBy,
  writeWorkflow,
} from '@ypomet/core';
import { MAX_DETAILS } from '../problem.ts';

/**
 * What is done with definitions off the request loop: the largest take seconds to read and compile. Everything comes and
 * goes as text, which costs the request loop next to nothing.
 */
export type DefinitionTasks = {
  /** Reads a definition's shape; `definition` is its text in the model's order. */
  readonly read: (text: string) => Outcome<{ readonly definition: string; readonly key: string }>;
  /**
   * Applies edits to a definition: the text after them, and each edit with its inverse as a JSON array. Edits that read
   * expressions need the workflows that these read through references: if `neighbours` is null then, they are asked for by key.
   */
  readonly edit: (
    definition: string,
    edits: string,
    neighbours: Readonly<Record<string, string>> | null,
  ) => Outcome<{ readonly definition: string; readonly applied: string } | { readonly asksFor: readonly string[] }>;
  /** Replaces a definition by another of the same key. */
  readonly replace: (definition: string, text: string) => Outcome<{ readonly definition: string; readonly applied: string }>;
  /** A definition with edits taken back: their inverses as a JSON array, the last edit's first. */
  readonly back: (definition: string, inverses: string) => Outcome<{ readonly definition: string }>;
  /** The keys of the workflows a definition refers to, and what it opens in them. */
  readonly refersTo: (definition: string) => Outcome<{ readonly keys: readonly string[]; readonly openings: Openings }>;
  /** Compiles a definition beside its neighbours, by key, and says what is wrong. */
  readonly check: (
    definition: string,
    neighbours: Readonly<Record<string, string>>,
    surroundings: Omit<Surroundings, 'members'>,
  ) => Outcome<Checked>;
  readonly write: (definition: string) => Outcome<{ readonly text: string }>;
};

export type Checked = {
  readonly faults: readonly Diagnostic[];
  readonly warnings: readonly Diagnostic[];
  /** What doesn't go with the workspace: outlets and pages that aren't there, and chains of follow-ups through other workflows. */
  readonly strangers: readonly Diagnostic[];
  /** Members that assignments and mails name outright, with where. */
  readonly members: readonly { readonly id: string; readonly path: string }[];
};

/** A refusal is named by the problem it is, with what is wrong. */
export type Outcome<T> =
  | { readonly ok: true; readonly value: T }
  | {
      readonly ok: false;
      readonly code: 'request/malformed' | 'request/invalid' | 'edit/refused';
      readonly diagnostics: readonly Diagnostic[];
      readonly detail?: string;
    };

const done = <T>(value: T): Outcome<T> => ({ ok: true, value });
const malformed: Outcome<never> = { ok: false, code: 'request/malformed', diagnostics: [] };
const invalid = (diagnostics: readonly Diagnostic[], detail?: string): Outcome<never> => ({
  ok: false,
  code: 'request/invalid',
  diagnostics,
  ...(detail ? { detail } : {}),
});

function parse(text: string): { readonly json: unknown } | null {
  try {
    return { json: JSON.parse(text) as unknown };
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

function readDefinition(text: string): Outcome<Workflow> {
  const parsed = parse(text);
  if (!parsed) return malformed;
  const read = parseWorkflow(parsed.json);
  return read.ok ? done(read.value) : invalid(read.diagnostics);
}

/** A stored definition was read before; defaults that the model got since are filled in. */
function openDefinition(text: string): Workflow {
  const read = readDefinition(text);
  if (!read.ok) throw new Error('a stored definition can’t be read');
  return read.value;
}

/** Finds the newest definitions of other workflows among some texts. */
function openNeighbours(texts: Readonly<Record<string, string>>): (key: string) => Workflow | null {
  const known = new Map(Object.entries(texts).map(([key, text]) => [key, openDefinition(text)]));
  return (key) => known.get(key) ?? null;
}

/** Whether an edit reads the expressions of its definition: a renaming changes names in them, a deletion looks who uses the part. */
const readsExpressions = (edit: Edit): boolean =>
  edit.type === 'together' ? edit.edits.some(readsExpressions) : edit.type === 'rename-key' || edit.type === 'delete-part';

export const definitionTasks: DefinitionTasks = {
  read: (text) => {
    const read = readDefinition(text);
    return read.ok ? done({ definition: JSON.stringify(read.value), key: read.value.key }) : read;
  },

  edit: (definition, edits, neighbours) => {
    const parsed = parse(edits);
    if (!parsed) return malformed;
    const request = EditsRequest.safeParse(parsed.json);
    if (!request.success) {
      const issues = request.error.issues.slice(0, MAX_DETAILS);
      return invalid(issues.map((issue) => diagnostic('workflow/shape', issue.path.join('.'), { detail: termOfIssue(issue) })));
    }
    let current = openDefinition(definition);
    const asksFor =
      neighbours === null && request.data.edits.some(({ edit }) => readsExpressions(edit)) ? workflowsNamedBy(current) : [];
    if (asksFor.length > 0) return done({ asksFor });
    const findWorkflow = openNeighbours(neighbours ?? {});
    const applied = [];
    for (const { id, edit } of request.data.edits) {
      const result = applyEdit(current, edit, { findWorkflow });
      if (!result.ok) return { ok: false, code: 'edit/refused', diagnostics: result.diagnostics };
      const { inverse, sentence } = result.value;
      current = result.value.definition;
      applied.push({ id, edit, inverse, sentence });
    }
    return done({ definition: JSON.stringify(current), applied: JSON.stringify(applied) });
  },

  replace: (definition, text) => {
    const before = openDefinition(definition);
    const read = readDefinition(text);
    if (!read.ok) return read;
    if (read.value.key !== before.key) return invalid([], SERVER_EN.details['other-workflow']);
    const edit = makeReadIn(before, read.value);
    if (!edit) return done({ definition: JSON.stringify(before), applied: '[]' });
    const result = applyEdit(before, edit);
    if (!result.ok) return { ok: false, code: 'edit/refused', diagnostics: result.diagnostics };
    const { inverse, sentence } = result.value;
    return done({ definition: JSON.stringify(read.value), applied: JSON.stringify([{ id: null, edit, inverse, sentence }]) });
  },

  back: (definition, inverses) => {
    let current = openDefinition(definition);
    for (const inverse of JSON.parse(inverses) as readonly Edit[]) {
      const result = applyEdit(current, inverse);
      if (!result.ok) return { ok: false, code: 'edit/refused', diagnostics: result.diagnostics };
      current = result.value.definition;
    }
    return done({ definition: JSON.stringify(current) });
  },

  refersTo: (definition) => {
    const workflow = openDefinition(definition);
    return done({ keys: workflowsNamedBy(workflow), openings: openingsOf(workflow) });
  },

  check: (definition, neighbours, surroundings) => {
    const compiled = compileWorkflow(openDefinition(definition), openNeighbours(neighbours));
    const members = compiled.definition.stages.flatMap((stage) => {
      const node = stage.assignment?.kind === 'member' ? compiled.stages.get(stage.key)?.assignee?.checked?.node : null;
      return node?.kind === 'text' ? [{ id: node.value, path: joinPath('stages', stage.key, 'assignment', 'expression') }] : [];
    });
    const addressed = deliveriesOf(compiled.definition).flatMap(({ delivery, path }) =>
      delivery.kind === 'mail'
        ? (['to', 'cc', 'bcc', 'replyTo'] as const).flatMap((list) =>
            delivery[list].flatMap((one) =>
              one.kind === 'member' ? [{ id: one.member, path: `${path}.${list}.${one.key}.member` }] : [],
            ),
          )
        : [],
    );
    return done({
      faults: compiled.diagnostics.filter(isFault).slice(0, MAX_DETAILS),
      warnings: compiled.diagnostics.filter((one) => !isFault(one)).slice(0, MAX_DETAILS),
      strangers: checkSurroundings(compiled.definition, { ...surroundings, members: null }),
      members: [...members, ...addressed],
    });
  },

  write: (definition) => done({ text: writeWorkflow(openDefinition(definition)) }),
};
