import { layOutScope } from '../decisions/lay-out.ts';
import { type CheckedExpression, checkExpression } from '../expressions/check.ts';
import { parseExpression, parseUnaryTests } from '../expressions/parse.ts';
import type { Scope } from '../expressions/scope.ts';
import { childrenOf, type Node } from '../expressions/tree.ts';
import type { Type } from '../expressions/types.ts';
import { type FindWorkflow, typeOfField, type WorkflowScope } from '../expressions/workflow-scope.ts';
import type { DecisionTable } from '../model/decision-table.ts';
import type { Field, SubField } from '../model/field.ts';
import { findField } from '../model/lookup.ts';
import { splitPath } from '../model/path.ts';
import type { PartKind } from '../model/shape.ts';
import type { Part, Place, TextSite } from '../model/walk.ts';
import type { Workflow } from '../model/workflow.ts';
import { expressionsIn, parseTemplate } from '../templates/parse-template.ts';

/**
 * An expression within a text of the definition: what it was resolved to, and where in the text it begins. What has faults is
 * resolved as far as it can be. `table`: the table whose rows it reads as `row`.
 */
export type ReadText = {
  readonly checked: CheckedExpression;
  readonly offset: number;
  readonly table: string | null;
  /** Nodes that stand elsewhere: the input that a decision table's cell tests. */
  readonly foreign: ReadonlySet<Node>;
};

const NONE: ReadonlySet<Node> = new Set();

/** Reads the expressions of a definition, each text once for each scope. Texts that don't parse yield nothing. */
export class TextReader {
  readonly layout: WorkflowScope;
  private readonly known = new Map<Scope, Map<string, CheckedExpression | null>>();
  private readonly find: FindWorkflow;

  constructor(
    private readonly definition: Workflow,
    findWorkflow: FindWorkflow,
  ) {
    this.find = (key) => (key === definition.key ? definition : findWorkflow(key));
    this.layout = layOutScope(definition, this.find);
  }

  read(site: TextSite): readonly ReadText[] {
    return site.tables.flatMap((table) => {
      const scope = table === null ? this.layout.scope : this.layout.rowScopes.get(table);
      if (!scope) return [];
      if (site.reads === 'template') return this.template(site.text, scope, table);
      if (site.reads === 'tests') return this.tests(site, scope);
      const expected = this.expectedOf(site);
      const checked = expected ? read(site.text, scope, expected) : this.check(site.text, scope);
      return checked ? [{ checked, offset: 0, table, foreign: NONE }] : [];
    });
  }

  /** Returns the type of the choice that an expression gives a value to, so that its text literals are read as options; else undefined. */
  private expectedOf({ place: { kind, part, owner } }: TextSite): Type | undefined {
    const field = this.fieldGivenBy(kind, part, owner);
    const type = field ? typeOfField(field, this.find) : undefined;
    const one = type?.kind === 'list' ? type.of.type : type;
    return one?.kind === 'choice' ? type : undefined;
  }

  private fieldGivenBy(kind: PartKind, part: Part, owner: Place | null): Field | SubField | null {
    switch (kind) {
      // The expression is the field's default, or computes the field.
      case 'field':
      case 'sub-field':
        return part as unknown as Field | SubField;
      case 'set':
        return findField(this.definition, String(part.field));
      case 'carried': {
        const target = this.find(String(owner?.part.workflow));
        return target && findField(target, String(part.field));
      }
      default:
        return null;
    }
  }

  private check(text: string, scope: Scope): CheckedExpression | null {
    const texts = this.known.get(scope) ?? new Map<string, CheckedExpression | null>();
    this.known.set(scope, texts);
    const known = texts.get(text);
    if (known !== undefined) return known;
    const checked = read(text, scope);
    texts.set(text, checked);
    return checked;
  }

  /** The passages of a template over rows read these as `row`. A template of one line reads alike. */
  private template(text: string, outer: Scope, table: string | null): readonly ReadText[] {
    return expressionsIn(parseTemplate(text)).flatMap(({ text: own, start, table: inner }) => {
      const scope = (inner === null ? undefined : this.layout.rowScopes.get(inner)) ?? outer;
      const checked = this.check(own, scope);
      return checked ? [{ checked, offset: start, table: inner ?? table, foreign: NONE }] : [];
    });
  }

  /** A cell is a condition on its input. */
  private tests(site: TextSite, scope: Scope): readonly ReadText[] {
    const table = site.place.owner?.part as DecisionTable | undefined;
    const column = splitPath(site.path)?.at(-1);
    const input = table?.inputs.find(({ key }) => key === column);
    const [parsed, value] = [parseUnaryTests(site.text), parseExpression(input?.expression ?? 'null')];
    if (!parsed.ok || !parsed.value || !value.ok) return [];
    const node: Node = { kind: 'in', value: value.value, tests: parsed.value.tests, span: value.value.span };
    return [{ checked: checkExpression(node, scope), offset: 0, table: null, foreign: nodesOf(value.value) }];
  }
}

function read(text: string, scope: Scope, expected?: Type): CheckedExpression | null {
  const parsed = parseExpression(text);
  return parsed.ok ? checkExpression(parsed.value, scope, expected) : null;
}

function nodesOf(node: Node): ReadonlySet<Node> {
  const found = new Set<Node>();
  const collect = (one: Node): void => {
    found.add(one);
    childrenOf(one).forEach(collect);
  };
  collect(node);
  return found;
}
