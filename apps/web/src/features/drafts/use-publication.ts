import { useQuery } from '@tanstack/react-query';
import { type Diagnostic, describeDiagnostic, howToMend } from '@ypomet/core';
import { useState } from 'react';
import { useDraft, useDraftState, useIsExamined } from './draft-context.tsx';
import { publicationQuery } from './queries.ts';

/** Something wrong with one of the workflows that are to be published, in words. */
export type Told = {
  /** The key of the workflow that has the fault or warning. `name`: null for the workflow whose page is open. */
  readonly workflow: string;
  readonly name: string | null;
  readonly code: string;
  readonly path: string;
  readonly message: string;
  readonly mend: string;
};

/** Identifies what is told among all that a dialog tells. */
export const idOfTold = ({ workflow, path, code }: Told): string => `${workflow}/${path}/${code}`;

export type Publishable = { readonly key: string; readonly name: string; readonly revision: number; readonly number: number };

/** Workflows that were never published have to be published along; of the others it is chosen. */
export const wasPublished = ({ number }: Publishable): boolean => number > 1;

export type PublicationPlan = {
  /** The draft's version, and the workflows that are published in the same step. */
  readonly number: number;
  readonly together: readonly Publishable[];
  /** Further workflows that could be published along, with whether they are chosen. */
  readonly others: readonly (Publishable & { readonly isChosen: boolean })[];
  readonly choose: (key: string, isChosen: boolean) => void;
  readonly faults: readonly Told[];
  readonly warnings: readonly Told[];
  /** Whether all of this is of the drafts as they are now. */
  readonly isCurrent: boolean;
  /** Why the server couldn't be asked; null where it could. */
  readonly error: Error | null;
};

/**
 * What publishing the draft takes. What is wrong with the draft alone is known in the page; as soon as other workflows are
 * published with it, the server says what is wrong with each beside the others.
 */
export function usePublication(): PublicationPlan {
  const { store, definition, faults, warnings } = useDraft();
  const isExamined = useIsExamined();
  const snapshot = useDraftState();
  const [along, setAlong] = useState<readonly string[]>([]);
  const query = useQuery(publicationQuery(store, snapshot.revision, along));
  const [own, ...together] = query.data?.workflows ?? [];
  const isAlone = together.length === 0;
  const local = (one: Diagnostic): Told => ({
    workflow: definition.key,
    name: null,
    code: one.code,
    path: one.path,
    message: describeDiagnostic(one),
    mend: howToMend(one),
  });
  const remote = (kind: 'faults' | 'warnings'): readonly Told[] =>
    (query.data?.workflows ?? []).flatMap((one) =>
      one[kind].map(({ code, path, message, mend }) => ({
        workflow: one.key,
        name: one === own ? null : one.name,
        code,
        path,
        message,
        mend,
      })),
    );
  return {
    number: (snapshot.publishedVersion ?? 0) + 1,
    together,
    others: [...(query.data?.others ?? []), ...together.filter(wasPublished)]
      .map((one) => ({ ...one, isChosen: along.includes(one.key) }))
      .sort((a, b) => a.name.localeCompare(b.name)),
    choose: (key, isChosen) => setAlong((before) => [...before.filter((one) => one !== key), ...(isChosen ? [key] : [])]),
    faults: isAlone ? faults.map(local) : remote('faults'),
    warnings: isAlone ? warnings.map(local) : remote('warnings'),
    isCurrent: isExamined && query.isSuccess && !query.isFetching,
    error: query.error,
  };
}
