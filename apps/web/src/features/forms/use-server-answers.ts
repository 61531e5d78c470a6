import { useDebouncedValue } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import type { FormDocument } from '@ypomet/contract';
import { collectInput, decidedOf, type Form } from '@ypomet/core';
import { useEffect, useState } from 'react';
import type { Values } from '../records/queries.ts';
import type { Entered } from './form-state.ts';

const ASK_AFTER_MS = 250;

/** Whether the form as it stands is the server's too, or is being asked for, or couldn't be. */
export type Answering =
  | { readonly status: 'settled' }
  | { readonly status: 'asking' }
  | { readonly status: 'failed'; readonly error: Error; readonly again: () => void };

/**
 * Asks the server again when a field that only it can follow changes, or a withheld value comes to be shown: also when an
 * answer is taken back. `given` is the form as the server gave it, before anything was entered; `document` its latest answer.
 * Each question has its own answer: one that comes late, after something else was entered, is not used.
 */
export function useServerAnswers(
  of: string,
  given: FormDocument,
  document: FormDocument,
  form: Form,
  entered: Entered,
  ask: (values: Values) => Promise<FormDocument>,
  onAnswer: (document: FormDocument) => void,
): Answering {
  const shownNow = document.withheld.filter((key) => {
    const field = form.forms.fieldByKey.get(key);
    return field !== undefined && decidedOf(form, field).treatment !== 'hidden';
  });
  const question = JSON.stringify([document.askAgainFor.map((key) => entered[key] ?? null), shownNow]);
  const nothing = JSON.stringify([document.askAgainFor.map(() => null), []]);
  const [answered, setAnswered] = useState<{ readonly document: FormDocument; readonly question: string } | null>(null);
  // The form that the page began with is the server's answer to an empty form, so it needs no request.
  const known = answered?.document === document ? answered.question : document === given ? nothing : null;
  const [settled] = useDebouncedValue(question, ASK_AFTER_MS);
  const isDue = question !== known;
  const query = useQuery({
    queryKey: ['form-answer', of, question],
    queryFn: () => ask(collectInput(form, entered) as Values),
    enabled: isDue && settled === question,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  useEffect(() => {
    if (!isDue || !query.data) return;
    setAnswered({ document: query.data, question });
    onAnswer(query.data);
  }, [isDue, query.data, question, onAnswer]);
  if (!isDue) return { status: 'settled' };
  if (query.isError) return { status: 'failed', error: query.error, again: () => void query.refetch() };
  return { status: 'asking' };
}
