import type { Workflow } from '@ypomet/core';

/** What leads from a workflow's stages into other workflows, and from those into its own. */
export type MapLink = {
  /** The stage at which it is drawn. */
  readonly stage: string;
  readonly kind: 'opens' | 'opened-by';
  /** The other workflow. */
  readonly workflow: string;
  readonly name: string;
};

type Other = {
  readonly key: string;
  readonly name: string;
  readonly opens: readonly { readonly from: string; readonly workflow: string; readonly handOff: string }[];
};

/** The links of a draft, each once: records that its hand-offs open, and workflows that open records of its own. */
export function linksOf(
  { key, stages, handOffs }: Pick<Workflow, 'key' | 'stages' | 'handOffs'>,
  others: readonly Other[],
): readonly MapLink[] {
  const names = new Map(others.map((one) => [one.key, one.name]));
  const opened = handOffs.flatMap(({ from, followUps }) =>
    followUps.map(({ workflow }): MapLink => ({ stage: from, kind: 'opens', workflow, name: names.get(workflow) ?? workflow })),
  );
  const intake = stages.find(({ kind }) => kind === 'intake')?.key;
  const openers = others.flatMap((other) =>
    other.key === key
      ? []
      : other.opens.flatMap(({ workflow, handOff }): readonly MapLink[] => {
          const stage = workflow === key ? (handOffs.find((own) => own.key === handOff)?.from ?? intake) : undefined;
          return stage === undefined ? [] : [{ stage, kind: 'opened-by', workflow: other.key, name: other.name }];
        }),
  );
  const seen = new Set<string>();
  return [...openers, ...opened].filter(({ stage, kind, workflow }) => {
    const id = `${kind} ${stage} ${workflow}`;
    return !seen.has(id) && seen.add(id);
  });
}
