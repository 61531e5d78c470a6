import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { HandedOnRow, TakenBackRow } from '@ypomet/contract';
import { MAX_HANDED_ON } from '@ypomet/contract/limits';
import { useEffect, useRef } from 'react';
import { inPartsOf } from '../../shared/in-parts.ts';
import { Notice } from '../../shared/Notice.tsx';
import { problemText } from '../../shared/problems.ts';
import { takeBack } from './queries.ts';
import classes from './Register.module.css';

type Props = {
  readonly workflow: string;
  readonly handedOn: readonly HandedOnRow[];
  /** The number of a record, by its id. */
  readonly numberOf: (id: string) => string;
};

/**
 * Who is here: somebody who has just handed many records on, and sees that it was the wrong button or the wrong ones. Offered
 * as long as nothing of it was sent; the server says of each whether it still could be.
 */
export function TakeBack({ workflow, handedOn, numberOf }: Props) {
  const client = useQueryClient();
  const records = handedOn.flatMap(({ id, revision }) => (revision === null ? [] : [{ id, revision }]));
  const taking = useMutation({
    mutationFn: async (): Promise<readonly TakenBackRow[]> => {
      const told: TakenBackRow[] = [];
      for (const part of inPartsOf(records, MAX_HANDED_ON)) told.push(...(await takeBack([...part])));
      return told;
    },
    onSettled: () => void client.invalidateQueries({ queryKey: ['register', workflow] }),
  });
  if (records.length === 0) return null;
  if (taking.data) return <TakenBack rows={taking.data} numberOf={numberOf} />;
  return (
    <div className={classes.ways}>
      <p className={classes.soft}>
        {records.length < handedOn.length && `${handedOn.length - records.length} opened other records and can’t be taken back. `}
        What is to be sent goes out a minute after each was handed on; until then it can be taken back.
      </p>
      <Button variant="default" loading={taking.isPending} onClick={() => taking.mutate()}>
        Take {records.length === 1 ? '1 record' : `${records.length} records`} back
      </Button>
      {taking.error && (
        <Notice tone="caution" title="Not all could be asked for">
          {problemText(taking.error)} Take them back again: what was taken back stays so.
        </Notice>
      )}
    </div>
  );
}

function TakenBack({ rows, numberOf }: { readonly rows: readonly TakenBackRow[] } & Pick<Props, 'numberOf'>) {
  const box = useRef<HTMLDivElement>(null);
  // The button that was pressed is gone: whoever uses the keyboard goes on from what came of it.
  useEffect(() => box.current?.focus(), []);
  const left = rows.filter(({ isTakenBack }) => !isTakenBack);
  const count = rows.length - left.length;
  const title = left.length === 0 ? `${count} taken back` : `${count} taken back, ${left.length} not`;
  return (
    <div ref={box} tabIndex={-1} role="status">
      <Notice tone={left.length === 0 ? 'calm' : 'caution'} title={title}>
        {left.length === 0 ? (
          'They are again as they were, and nothing was sent.'
        ) : (
          <ul className={classes.which}>
            {left.map(({ id, issues }) => (
              <li key={id}>
                <span className="mono">{numberOf(id)}</span>: {issues.map(({ message, mend }) => `${message} ${mend}`).join(' ')}
              </li>
            ))}
          </ul>
        )}
      </Notice>
    </div>
  );
}
