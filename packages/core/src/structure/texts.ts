import { layOutScope } from '../decisions/lay-out.ts';
import { type CheckedExpression, checkExpression } from '../expressions/check.ts';
import { parseExpression, parseUnaryTests } from '../expressions/parse.ts';
import type { Scope } from '../expressions/scope.ts';
import { childrenOf, type Node } from '../expressions/tree.ts';
import type { FindWorkflow, WorkflowScope } from '../expressions/workflow-scope.ts';
import type { DecisionTable } from '../model/decision-table.ts';
import { splitPath } from '../model/path.ts';
import type { TextSite } from '../model/walk.ts';
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

  constructor(definition: Workflow, findWorkflow: FindWorkflow) {
    this.layout = layOutScope(definition, (key) => (key === definition.key ? definition : findWorkflow(key)));
  }

  read(site: TextSite): readonly ReadText[] {
    return site.tables.flatMap((table) => {
      const scope = table === null ? this.layout.scope : this.layout.rowScopes.get(table);
      if (!scope) return [];
      if (site.reads === 'template') return this.template(site.text, scope, table);
      if (site.reads === 'tests') return this.tests(site, scope);
      const checked = this.check(site.text, scope);
      return checked ? [{ checked, offset: 0, table, foreign: NONE }] : [];
    });
  }

  private check(text: string, scope: Scope): CheckedExpression | null {
    const texts = this.known.get(scope) ?? new Map<string, CheckedExpression | null>();
    this.known.set(scope, texts);
    const known = texts.get(text);
    if (known !== undefined) return known;
    const parsed = parseExpression(text);
    const checked = parsed.ok ? checkExpression(parsed.value, scope) : null;
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

function nodesOf(node: Node): ReadonlySet<Node> {
  const found = new Set<Node>();
  const collect = (one: Node): void => {
    found.add(one);
    childrenOf(one).forEach(collect);
  };
  collect(node);
  return found;
}
