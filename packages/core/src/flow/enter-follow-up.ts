import { validateForm } from '../forms/validate-form.ts';
import { readFieldValue } from '../model/field-value.ts';
import { findField } from '../model/lookup.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { withDue } from './clock.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { enterInput } from './enter-input.ts';
import type { FollowUpConsequence, HandedOn } from './events.ts';
import { refuseOverruns } from './frame-overruns.ts';
import { blankRecord } from './open-record.ts';
import { passOn } from './pass.ts';
import type { Actor, Assignee, Outside, WorkflowRecord } from './record.ts';

/** What opening a follow-up needs: which record it becomes, and who opened it from which. */
export type Opening = {
  readonly consequence: FollowUpConsequence;
  readonly source: { readonly workflow: string; readonly record: string; readonly number: string | null };
  readonly id: string;
  readonly number: string;
  readonly version: number;
  readonly actor: Actor;
  readonly outside: Outside;
};

/** A follow-up that was opened: handed on from its intake, or, with the issues, waiting there. */
export type Opened = Pick<HandedOn, 'record' | 'events' | 'deliveries' | 'followUps'> & {
  readonly issues: readonly Diagnostic[];
};

/**
 * Opens a follow-up in its own workflow (semantics 5): the carried values are put in, and the record is handed on by its
 * hand-off of entry as if somebody had entered them. Where the form, or the hand-off, refuses that, it is opened all the
 * same and waits at its intake with the issues; so it does where the target has no such hand-off any more. Throws where the
 * target has no intake.
 */
export function enterFollowUp(target: CompiledWorkflow, opening: Opening): Opened {
  const { consequence, source, id, number, version, actor, outside } = opening;
  const handOff = target.handOffs.get(consequence.handOff);
  const entry = handOff && target.stages.get(handOff.handOff.from)?.stage;
  const intake = entry?.kind === 'intake' ? entry : target.definition.stages.find(({ kind }) => kind === 'intake');
  if (!intake) throw new Error(`no intake in ${consequence.workflow}`);
  const blank = blankRecord(target, intake.key, id, version, actor, outside);
  const link = consequence.link === null ? {} : { [consequence.link]: source.record };
  const record: WorkflowRecord = { ...blank, number, values: { ...consequence.values, ...link } };
  const opened = { type: 'opened', by: source, at: intake.key } as const;
  if (!handOff || intake !== entry) {
    const params = { handOff: consequence.handOff, workflow: target.definition.name };
    return waiting(record, [diagnostic('follow-up/no-entry', consequence.handOff, params)]);
  }
  const unread = unreadable(target, record, outside);
  const entered = enterInput(target, record, {}, actor, outside);
  const form = entered.ok ? entered.value : null;
  const issues = form && handOff.handOff.checking === 'full' ? validateForm(form) : [];
  const isOffered = form !== null && handOff.offered.holds(form.frame);
  const overrun = form && refuseOverruns(form.frame);
  if (form && unread.length === 0 && issues.length === 0 && isOffered && !overrun) {
    const { result } = passOn({ workflow: target, record, handOff, form, actor, outside });
    if (result.ok) {
      const { record: after, events, deliveries, followUps } = result.value;
      const assignee = fitting(target, after, consequence.assignee, outside) ?? after.assignee;
      return {
        record: { ...after, assignee },
        events: [{ ...opened, issues: [] }, ...events],
        deliveries,
        followUps,
        issues: [],
      };
    }
    return waiting(record, result.diagnostics);
  }
  return waiting(record, [...unread, ...issues, ...(overrun && !overrun.ok ? overrun.diagnostics : [])]);

  function waiting(at: WorkflowRecord, found: readonly Diagnostic[]): Opened {
    const codes = found.map(({ code }) => code);
    return {
      record: withDue(target, at, actor, outside),
      events: [{ ...opened, issues: codes }],
      deliveries: [],
      followUps: [],
      issues: found,
    };
  }
}

/** Carried values that the target's fields can't hold. */
function unreadable(target: CompiledWorkflow, { values }: WorkflowRecord, outside: Outside): readonly Diagnostic[] {
  return Object.entries(values).flatMap(([key, json]) => {
    const field = findField(target.definition, key);
    if (!field) return [];
    const read = readFieldValue(field, json, outside);
    return read.ok ? [] : [read.diagnostic];
  });
}

/** Whoever the follow-up names, if they may act where it came to. */
function fitting(target: CompiledWorkflow, record: WorkflowRecord, assignee: Assignee | null, outside: Outside): Assignee | null {
  const stage = target.stages.get(record.stage)?.stage;
  if (!assignee || !stage || stage.kind === 'end' || stage.kind === 'junction') return null;
  if (assignee.kind === 'role') return stage.roles.includes(assignee.role) ? assignee : null;
  const member = outside.findMember(assignee.member);
  const mayAct = member && (stage.roles.length === 0 || stage.roles.some((role) => member.roles.includes(role)));
  return mayAct ? assignee : null;
}
