import { useQuery } from '@tanstack/react-query';
import { makeWording, type Style, type Wording } from '@ypomet/core';
import { useMemo } from 'react';
import { useDraft } from '../drafts/draft-context.tsx';
import { membersQuery } from '../drafts/queries.ts';
import { useRehearsalForm } from '../rehearsal/rehearsal-context.tsx';
import { useSession } from '../session/queries.ts';
import { type ConditionPlace, explainsOn } from './place.ts';

/** How values are written for this analyst, members by name. */
export function useStyle(): { readonly style: Style; readonly members: ConditionPlace['members'] } {
  const { workspace } = useSession();
  const { data: members } = useQuery(membersQuery);
  return useMemo(() => {
    const names = new Map(members?.map(({ id, name }) => [id, name]));
    const style = { locale: workspace.locale, zone: workspace.zone, nameOf: (id: string) => names.get(id) ?? null };
    return { style, members: members ?? [] };
  }, [workspace, members]);
}

/** The words of the draft. */
export function useWording(): Wording {
  const { definition, compiled } = useDraft();
  const { style } = useStyle();
  return useMemo(() => makeWording(definition, style, compiled.findWorkflow), [definition, style, compiled.findWorkflow]);
}

/** The place of a condition over the record; with `table`, of one over the rows of that table, which go by `row`. */
export function useConditionPlace(table: string | null = null): ConditionPlace {
  const { definition, compiled } = useDraft();
  const { style, members } = useStyle();
  const wording = useWording();
  const form = useRehearsalForm();
  const { layout } = compiled.forms;
  const scope = (table === null ? undefined : layout.rowScopes.get(table)) ?? layout.scope;
  return useMemo(() => {
    const whole: ConditionPlace = {
      workflow: definition,
      findWorkflow: compiled.findWorkflow,
      scope,
      wording: table === null ? wording : wording.within('row', [table]),
      style,
      members,
      environment: form.given.environment,
      explain: table === null ? explainsOn(scope, form) : () => null,
      rows: table === null ? null : { item: 'row', table: [table] },
      mayBeNamed: table === null,
    };
    return whole;
  }, [definition, compiled.findWorkflow, scope, wording, style, members, form, table]);
}
