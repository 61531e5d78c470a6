import type { ChoiceEntry, FileEntry } from '@ypomet/contract';
import { createContext, useContext } from 'react';
import type { SendOptions } from './send-file.ts';

/** Files of an input that are on their way, and those that could not be sent. */
export type SendingCount = { readonly underWay: number; readonly failed: number };

/** What inputs need beyond their value: where choices come from, where files go, and what ids are called. */
export type FormWorld = {
  readonly zone: string;
  /** How its people write days and numbers: a BCP 47 language tag. */
  readonly locale: string;
  /** Names of members and numbers of records, by id. */
  readonly names: Readonly<Record<string, string>>;
  /** What a member or reference field (`field`, or `table.subField`) may name. */
  readonly findChoices: (path: string, search: string) => Promise<readonly ChoiceEntry[]>;
  /** Takes note of how many files of an input are on their way, and how many could not be sent. */
  readonly noteSending?: (input: string, sending: SendingCount) => void;
  readonly handOver: (file: File, options: SendOptions) => Promise<FileEntry>;
  /** The record whose files can be saved; null where there is none yet. */
  readonly filesOf: string | null;
  /** Who would sign. */
  readonly signer: string;
  /** Fields whose sign-off no longer stands. */
  readonly brokenSignOffs: readonly string[];
};

/** What an input says of itself to those who listen to the page. */
export type Told = { readonly 'aria-describedby'?: string; readonly 'aria-required'?: true };

const FormWorldContext = createContext<FormWorld | null>(null);
export const FormWorldProvider = FormWorldContext.Provider;

export function useFormWorld(): FormWorld {
  const world = useContext(FormWorldContext);
  if (!world) throw new Error('outside a form');
  return world;
}
