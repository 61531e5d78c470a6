import { type CompiledCondition, type CompiledExpression, type Compiling, ExpressionCompiler } from '../expressions/compiler.ts';
import type { Scope } from '../expressions/scope.ts';
import { describeType, isAssignable, listOf, TYPES, type Type } from '../expressions/types.ts';
import { type FindWorkflow, typeOfField } from '../expressions/workflow-scope.ts';
import { checkFields } from '../forms/check-fields.ts';
import { compileForms } from '../forms/compile-forms.ts';
import type { CompiledForms } from '../forms/compiled-forms.ts';
import { isFault } from '../messages/en.ts';
import type { Assignment, Delivery, FollowUp, HandOff, SetValue, Stage } from '../model/flow.ts';
import { checkInvariants, checkNeighbours } from '../model/invariants.ts';
import { findField } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { checkDisclosure } from './check-disclosure.ts';
import { checkSets } from './check-sets.ts';
import type {
  CompiledDelivery,
  CompiledFollowUp,
  CompiledHandOff,
  CompiledSet,
  CompiledStage,
  CompiledWorkflow,
} from './compiled-workflow.ts';
import { type CompiledTemplate, compileTemplate } from './template.ts';

/**
 * Compiles a definition. Never fails: what is wrong is in `diagnostics`, and a faulty expression yields null.
 * `findWorkflow` knows the other workflows; without it, what is said of them is taken on trust. A workflow knows itself.
 * `as-needed` compiles each part when it is first asked for, and finds nothing wrong: for published versions.
 */
export function compileWorkflow(
  definition: Workflow,
  findWorkflow: FindWorkflow | null = null,
  compiling: Compiling = 'whole',
): CompiledWorkflow {
  const compiler = new ExpressionCompiler(compiling);
  const find: FindWorkflow = (key) => (key === definition.key ? definition : (findWorkflow?.(key) ?? null));
  const forms = compileForms(definition, compiler, find);
  const builder = new FlowBuilder(definition, forms, compiler, find);
  const handOffs = new Map(definition.handOffs.map((handOff, index) => [handOff.key, builder.handOff(handOff, index)]));
  const handOffsFrom = groupBy([...handOffs.values()], ({ handOff }) => handOff.from);
  const stages = new Map(
    definition.stages.map((stage, index) => [stage.key, builder.stage(stage, index, handOffsFrom.get(stage.key) ?? [])]),
  );
  const compiled = { definition, forms, stages, handOffs, findWorkflow: find };
  if (compiling === 'as-needed') return { ...compiled, diagnostics: [] };
  const found = [
    ...checkInvariants(definition),
    ...(findWorkflow ? checkNeighbours(definition, find) : []),
    ...checkFields(definition),
    ...compiler.diagnostics,
    ...checkSets(compiled),
    ...checkDisclosure(compiled),
  ];
  return { ...compiled, diagnostics: [...found.filter(isFault), ...found.filter((one) => !isFault(one))] };
}

function groupBy<T>(list: readonly T[], keyOf: (item: T) => string): ReadonlyMap<string, readonly T[]> {
  const groups = new Map<string, T[]>();
  for (const item of list) {
    const group = groups.get(keyOf(item));
    if (group) group.push(item);
    else groups.set(keyOf(item), [item]);
  }
  return groups;
}

class FlowBuilder {
  private readonly scope: Scope;

  constructor(
    private readonly definition: Workflow,
    private readonly forms: CompiledForms,
    private readonly compiler: ExpressionCompiler,
    private readonly findWorkflow: FindWorkflow,
  ) {
    this.scope = forms.layout.scope;
  }

  handOff(handOff: HandOff, index: number): CompiledHandOff {
    const path = `handOffs.${index}`;
    return {
      handOff,
      offered: this.condition(handOff.offeredWhen, `${path}.offeredWhen`),
      branches: handOff.branches.map((branch, at) => ({
        branch,
        condition: this.condition(branch.when, `${path}.branches.${at}.when`),
      })),
      sets: this.sets(handOff.sets, `${path}.sets`),
      deliveries: handOff.deliveries.map((delivery, at) => this.delivery(delivery, `${path}.deliveries.${at}`)),
      acknowledgements: handOff.acknowledgements.map((acknowledgement, at) => ({
        acknowledgement,
        condition: this.condition(acknowledgement.when, `${path}.acknowledgements.${at}.when`),
        text: this.template(acknowledgement.text, `${path}.acknowledgements.${at}.text`),
      })),
      followUps: handOff.followUps.map((followUp, at) => this.followUp(followUp, `${path}.followUps.${at}`)),
    };
  }

  stage(stage: Stage, index: number, handOffs: readonly CompiledHandOff[]): CompiledStage {
    const path = `stages.${index}`;
    const { assignment } = stage;
    return {
      stage,
      sets: this.sets(stage.onArrival.sets, `${path}.onArrival.sets`),
      deliveries: stage.onArrival.deliveries.map((delivery, at) => this.delivery(delivery, `${path}.onArrival.deliveries.${at}`)),
      assignee: assignment && assignment.kind !== 'role' ? this.assignee(assignment, `${path}.assignment.expression`) : null,
      handOffs,
    };
  }

  /** A role that an expression names must be one of the workflow's. */
  private assignee(assignment: Exclude<Assignment, { kind: 'role' }>, path: string): CompiledExpression {
    const options = this.definition.roles.map(({ key, name }) => ({ code: key, label: name }));
    const expected: Type = assignment.kind === 'role-of' ? { kind: 'choice', options } : TYPES.text;
    return this.compiler.compile(assignment.expression, path, this.scope, expected);
  }

  private condition(text: string | null, path: string): CompiledCondition {
    return this.compiler.compileCondition(text, path, this.scope);
  }

  private template(text: string, path: string): CompiledTemplate {
    return compileTemplate(text, path, this.scope, this.definition, this.compiler);
  }

  private sets(sets: readonly SetValue[], path: string): readonly CompiledSet[] {
    return sets.flatMap((set, index) => {
      const of = this.forms.fieldByKey.get(set.field);
      if (!of) return [];
      const type = typeOfField(of.field, this.findWorkflow);
      return [{ set, of, value: this.compiler.compile(set.value, `${path}.${index}.value`, this.scope, type) }];
    });
  }

  private delivery(delivery: Delivery, path: string): CompiledDelivery {
    return {
      delivery,
      condition: this.condition(delivery.when, `${path}.when`),
      to: delivery.to.map((recipient, index) => ({
        recipient,
        expression:
          recipient.kind === 'expression' ? this.recipient(recipient.expression, `${path}.to.${index}.expression`) : null,
      })),
      subject: this.template(delivery.subject, `${path}.subject`),
      body: this.template(delivery.body, `${path}.body`),
    };
  }

  /** One address, or a list of such. */
  private recipient(text: string, path: string): CompiledExpression {
    const found = this.compiler.compile(text, path, this.scope);
    if (this.compiler.compiling === 'as-needed' || !found.checked) return found;
    const { type } = found.checked.typing;
    const expected = type.kind === 'list' ? listOf(TYPES.text) : TYPES.text;
    if (!isAssignable(type, expected)) {
      const params = { expected: describeType(expected), found: describeType(type) };
      this.compiler.diagnostics.push(diagnostic('expression/wrong-result', path, params, found.checked.node.span));
    }
    return found;
  }

  private followUp(followUp: FollowUp, path: string): CompiledFollowUp {
    const scope = followUp.perRow === null ? this.scope : (this.forms.layout.rowScopes.get(followUp.perRow) ?? this.scope);
    const target = this.findWorkflow(followUp.workflow);
    return {
      followUp,
      condition: this.compiler.compileCondition(followUp.when, `${path}.when`, scope),
      carried: followUp.carried.map((set, index) => {
        const field = target && findField(target, set.field);
        const expected = field ? typeOfField(field, this.findWorkflow) : undefined;
        return { set, field, value: this.compiler.compile(set.value, `${path}.carried.${index}.value`, scope, expected) };
      }),
    };
  }
}
