import {
  describeOutline,
  EN,
  type ExplainedItem,
  type Explanation,
  explainOutline,
  phrasesOf,
  type ReadValue,
  type Wording,
} from '@ypomet/core';
import type { ReactNode } from 'react';
import { useWording } from '../conditions/use-place.ts';
import classes from './ExplainedCondition.module.css';

/** A condition in words: every field read carries the value it had, every clause whether it held. */
export function ExplainedCondition({ explanation }: { readonly explanation: Explanation }) {
  const wording = useWording();
  return <span className={classes.said}>{say(explainOutline(explanation), wording)}</span>;
}

function say(explained: ExplainedItem, wording: Wording): ReactNode {
  const { item, of, truth } = explained;
  if (item.kind === 'group') {
    const parts = of.map((part, index) => {
      const isNested = part.item.kind === 'group' && part.item.of.length > 1;
      return (
        <span key={String(index)}>
          {index > 0 && (item.which === 'all' ? EN.outline.and : item.which === 'any' ? EN.outline.or : EN.outline['then-none'])}
          {isNested ? <>({say(part, wording)})</> : say(part, wording)}
        </span>
      );
    });
    return item.which === 'none' ? <>none of: {parts}</> : parts;
  }
  if (item.kind === 'rows') {
    const holding = of.flatMap((row, index) => (row.truth === true ? [index + 1] : []));
    return (
      <span className={classes.clause} data-truth={String(truth)}>
        {describeOutline(item, wording)}{' '}
        <span className={classes.value}>
          {of.length === 0 ? 'no rows' : holding.length === 0 ? 'no row' : `row ${holding.join(', ')}`}
        </span>
      </span>
    );
  }
  if (item.kind === 'clause') return <Clause explained={explained} item={item} wording={wording} />;
  return (
    <span className={classes.clause} data-truth={String(truth)}>
      {describeOutline(item, wording)}
      {explained.reads.map((read) => (
        <Read key={read.path.join('.')} read={read} wording={wording} isNamed />
      ))}
    </span>
  );
}

/** The value stands behind what it is of; values of other fields at the end, with their names. */
function Clause({
  explained: { truth, reads },
  item,
  wording,
}: {
  readonly explained: ExplainedItem;
  readonly item: Extract<ExplainedItem['item'], { kind: 'clause' }>;
  readonly wording: Wording;
}) {
  const { subject } = item;
  const own = subject.kind === 'field' ? reads.find(({ path }) => path.join('.') === subject.path.join('.')) : undefined;
  return (
    <span className={classes.clause} data-truth={String(truth)}>
      {phrasesOf(item, wording).map(({ kind, text }, index) => (
        <span key={`${kind}/${String(index)}`}>
          {index > 0 && ' '}
          {text}
          {kind === 'subject' && own && <Read read={own} wording={wording} />}
        </span>
      ))}
      {reads
        .filter((read) => read !== own)
        .map((read) => (
          <Read key={read.path.join('.')} read={read} wording={wording} isNamed />
        ))}
    </span>
  );
}

const MAX_SHOWN = 60;

function Read({
  read,
  wording,
  isNamed = false,
}: {
  readonly read: ReadValue;
  readonly wording: Wording;
  readonly isNamed?: boolean;
}) {
  const text = read.value === null ? 'empty' : wording.format(read.value, read.path).slice(0, MAX_SHOWN) || 'none';
  return (
    <>
      {' '}
      <span className={classes.value} data-empty={read.value === null || undefined}>
        {isNamed && `${wording.nameOf(read.path)}: `}
        {text}
      </span>
    </>
  );
}
