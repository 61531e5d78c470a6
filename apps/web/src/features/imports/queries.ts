import type { BodyInput, BodyOf, ImportedRow } from '@ypomet/contract';
import { callApi } from '../../shared/api.ts';
import type { ImportRow } from './rows.ts';

/** What becomes of the mails that the records come to. */
export type Mails = BodyOf<'importRows'>['mails'];

type Import = {
  readonly workflow: string;
  readonly stage: string;
  readonly handOff: string;
  readonly run: string;
  readonly isTrial: boolean;
  readonly byName: readonly string[];
  readonly mails: Mails;
};

/** Sends a part of an import: a row sent twice in one run begins one record. */
export async function sendImport(
  { workflow, stage, handOff, run, isTrial, byName, mails }: Import,
  rows: readonly ImportRow[],
  signal: AbortSignal,
): Promise<readonly ImportedRow[]> {
  const body = { handOff, run, isTrial, byName, mails, rows } as unknown as BodyInput<'importRows'>;
  return (await callApi('importRows', { params: { key: workflow, stage }, body, signal })).rows;
}
