import {
  type CompilationMemory,
  type CompiledCondition,
  type CompiledExpression,
  ExpressionCompiler,
} from '../expressions/compiler.ts';
import type { Scope } from '../expressions/scope.ts';
import { isAssignable, listOf, TYPES, type Type, termOfType } from '../expressions/types.ts';
import { type FindWorkflow, typeOfField } from '../expressions/workflow-scope.ts';
import { compileForms } from '../forms/compile-forms.ts';
import type { CompiledForms } from '../forms/compiled-forms.ts';
import type { Delivery, FollowUp, Property, Recipient } from '../model/consequence.ts';
import type { Assignment, HandOff, Stage } from '../model/flow.ts';
import { findField } from '../model/lookup.ts';
import { joinPath } from '../model/path.ts';
import type { SetValue } from '../model/set-value.ts';
import type { Workflow } from '../model/workflow.ts';
import { diagnostic } from '../shared/diagnostic.ts';
import { type CompiledLine, type CompiledTemplate, compileLine, compileTemplate } from '../templates/compile-template.ts';
import type {
  CompiledDelivery,
  CompiledFollowUp,
  CompiledHandOff,
  CompiledProperty,
  CompiledRecipient,
  CompiledSet,
  CompiledStage,
  CompiledWorkflow,
} from './compiled-workflow.ts';

/**
 * Prepares a definition for deciding: each part is compiled when it is first asked for, and what is wrong isn't looked for. A
 * faulty expression yields null. `findWorkflow` knows the other workflows; without it, what is said of them is taken on
 * trust. A workflow knows itself. With a memory, parts of which nothing has changed since it was last given are those of
 * before: for drafts.
 */
export const prepareWorkflow = (
  definition: Workflow,
  findWorkflow: FindWorkflow | null = null,
  memory: CompilationMemory | null = null,
): CompiledWorkflow => buildWorkflow(definition, findWorkflow, new ExpressionCompiler('as-needed', memory));

/** Puts a compiled workflow together with a compiler, which says how much of it is compiled at once. */
export function buildWorkflow(
  definition: Workflow,
  findWorkflow: FindWorkflow | null,
  compiler: ExpressionCompiler,
): CompiledWorkflow {
  const find: FindWorkflow = (key) => (key === definition.key ? definition : (findWorkflow?.(key) ?? null));
  const forms = compileForms(definition, compiler, find);
  const builder = new FlowBuilder(definition, forms, compiler, find);
  const handOffs = new Map(
    definition.handOffs.map((handOff) => {
      const others = handOff.followUps.map((followUp) => find(followUp.workflow)?.fields);
      const made = compiler.reuse(`handOff ${handOff.key}`, [handOff, forms.fields, forms.layout, ...others], () =>
        builder.handOff(handOff),
      );
      return [handOff.key, made];
    }),
  );
  const handOffsFrom = groupBy([...handOffs.values()], ({ handOff }) => handOff.from);
  const stages = new Map(
    definition.stages.map((stage) => {
      const leaving = handOffsFrom.get(stage.key) ?? [];
      const of = [stage, forms.fields, forms.layout, definition.roles, ...leaving];
      return [stage.key, compiler.reuse(`work at ${stage.key}`, of, () => builder.stage(stage, leaving))];
    }),
  );
  return { definition, forms, stages, handOffs, findWorkflow: find };
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

  handOff(handOff: HandOff): CompiledHandOff {
    const path = joinPath('handOffs', handOff.key);
    return {
      handOff,
      offered: this.condition(handOff.offeredWhen, `${path}.offeredWhen`),
      branches: handOff.branches.map((branch) => ({
        branch,
        condition: this.condition(branch.when, `${path}.branches.${branch.key}.when`),
      })),
      sets: this.sets(handOff.sets, `${path}.sets`),
      deliveries: handOff.deliveries.map((delivery) => this.delivery(delivery, `${path}.deliveries.${delivery.key}`)),
      acknowledgements: handOff.acknowledgements.map((acknowledgement) => ({
        acknowledgement,
        condition: this.condition(acknowledgement.when, `${path}.acknowledgements.${acknowledgement.key}.when`),
        text: this.template(acknowledgement.text, `${path}.acknowledgements.${acknowledgement.key}.text`),
        next: this.line(acknowledgement.next, `${path}.acknowledgements.${acknowledgement.key}.next`),
      })),
      followUps: handOff.followUps.map((followUp) => this.followUp(followUp, `${path}.followUps.${followUp.key}`)),
    };
  }

  stage(stage: Stage, handOffs: readonly CompiledHandOff[]): CompiledStage {
    const path = joinPath('stages', stage.key);
    const { assignment } = stage;
    return {
      stage,
      sets: this.sets(stage.onArrival.sets, `${path}.onArrival.sets`),
      deliveries: stage.onArrival.deliveries.map((delivery) =>
        this.delivery(delivery, `${path}.onArrival.deliveries.${delivery.key}`),
      ),
      assignee: assignment && assignment.kind !== 'role' ? this.assignee(assignment, `${path}.assignment.expression`) : null,
      due: stage.due === null ? null : this.due(stage.due, `${path}.due`),
      reminders: stage.reminders.map((reminder) => ({
        reminder,
        deliveries: reminder.deliveries.map((delivery) =>
          this.delivery(delivery, `${path}.reminders.${reminder.key}.deliveries.${delivery.key}`),
        ),
      })),
      handOffs,
    };
  }

  /** A day, or a date and time. */
  private due(text: string, path: string): CompiledExpression {
    return this.oneOf(text, path, ({ kind }) => (kind === 'date-time' ? TYPES.dateTime : TYPES.date));
  }

  private assignee(assignment: Exclude<Assignment, { kind: 'role' }>, path: string): CompiledExpression {
    const expected: Type = assignment.kind === 'role-of' ? this.roleType : TYPES.text;
    return this.compiler.compile(assignment.expression, path, this.scope, expected);
  }

  private condition(text: string | null, path: string): CompiledCondition {
    return this.compiler.compileCondition(text, path, this.scope);
  }

  private get templates() {
    return { layout: this.forms.layout, definition: this.definition, compiler: this.compiler };
  }

  private template(text: string, path: string): CompiledTemplate {
    return compileTemplate(text, path, this.templates);
  }

  private line(text: string, path: string): CompiledLine {
    return compileLine(text, path, this.templates);
  }

  private sets(sets: readonly SetValue[], path: string): readonly CompiledSet[] {
    return sets.flatMap((set) => {
      const of = this.forms.fieldByKey.get(set.field);
      if (!of) return [];
      const type = typeOfField(of.field, this.findWorkflow);
      return [{ set, of, value: this.compiler.compile(set.value, `${path}.${set.key}.value`, this.scope, type) }];
    });
  }

  private delivery(delivery: Delivery, path: string): CompiledDelivery {
    const condition = this.condition(delivery.when, `${path}.when`);
    switch (delivery.kind) {
      case 'mail':
        return {
          kind: 'mail',
          delivery,
          condition,
          to: this.recipients(delivery.to, `${path}.to`),
          cc: this.recipients(delivery.cc, `${path}.cc`),
          bcc: this.recipients(delivery.bcc, `${path}.bcc`),
          replyTo: this.recipients(delivery.replyTo, `${path}.replyTo`),
          senderName: this.line(delivery.senderName, `${path}.senderName`),
          subject: this.line(delivery.subject, `${path}.subject`),
          body: this.template(delivery.body, `${path}.body`),
        };
      case 'web':
        return {
          kind: 'web',
          delivery,
          condition,
          address: this.line(delivery.address, `${path}.address`),
          headers: delivery.headers.map((header) => ({
            header,
            value: this.line(header.value, `${path}.headers.${header.key}.value`),
          })),
          properties: this.properties(delivery.properties, `${path}.properties`),
        };
      case 'file':
        return {
          kind: 'file',
          delivery,
          condition,
          folder: this.line(delivery.folder, `${path}.folder`),
          fileName: this.line(delivery.fileName, `${path}.fileName`),
          properties: this.properties(delivery.properties, `${path}.properties`),
          body: this.template(delivery.body, `${path}.body`),
        };
      default:
        return delivery satisfies never;
    }
  }

  private properties(list: readonly Property[], path: string): readonly CompiledProperty[] {
    return list.map((property) => ({
      property,
      value: this.compiler.compile(property.value, `${path}.${property.key}.value`, this.scope),
      field: findField(this.definition, property.value.trim()),
    }));
  }

  private recipients(list: readonly Recipient[], path: string): readonly CompiledRecipient[] {
    return list.map((recipient) => ({
      recipient,
      expression: this.recipient(recipient, `${path}.${recipient.key}.expression`),
    }));
  }

  /**
   * Compiles the expression that names a receiver: an e-mail address or a list of them, a member's id, or a role's key. Null for
   * receivers that need no expression.
   */
  private recipient(recipient: Recipient, path: string): CompiledExpression | null {
    switch (recipient.kind) {
      case 'expression':
        return this.oneOf(recipient.expression, path, ({ kind }) => (kind === 'list' ? listOf(TYPES.text) : TYPES.text));
      case 'member-of':
        return this.compiler.compile(recipient.expression, path, this.scope, TYPES.text);
      case 'role-of':
        return this.compiler.compile(recipient.expression, path, this.scope, this.roleType);
      default:
        return null;
    }
  }

  /** The type of an expression that names a role: a choice among the keys of the workflow's roles. */
  private get roleType(): Type {
    return { kind: 'choice', options: this.definition.roles.map(({ key, name }) => ({ code: key, label: name })) };
  }

  /** An expression that may be of one of several types: `expectedOf` gives the one that what was found should be. */
  private oneOf(text: string, path: string, expectedOf: (found: Type) => Type): CompiledExpression {
    const found = this.compiler.compile(text, path, this.scope);
    if (this.compiler.compiling === 'as-needed' || !found.checked) return found;
    const { type } = found.checked.typing;
    const expected = expectedOf(type);
    if (!isAssignable(type, expected)) {
      const params = { expected: termOfType(expected), found: termOfType(type) };
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
      carried: followUp.carried.map((set) => {
        const field = target && findField(target, set.field);
        const expected = field ? typeOfField(field, this.findWorkflow) : undefined;
        return { set, field, value: this.compiler.compile(set.value, `${path}.carried.${set.key}.value`, scope, expected) };
      }),
      assignee:
        followUp.assignee?.kind === 'member'
          ? this.compiler.compile(followUp.assignee.expression, `${path}.assignee.expression`, scope, TYPES.text)
          : null,
    };
  }
}
