import { z } from 'zod';
import { KEY_PATTERN, RESERVED_KEYS } from '../shared/identifiers.ts';

/** A key: a name of the expression language that is not taken. */
export const Key = z
  .string()
  .regex(KEY_PATTERN, 'shape/key')
  .refine((key) => !RESERVED_KEYS.has(key), 'shape/taken-word');

/** The key of a part that people don't name: filled in where a file leaves it out (see `model/given-keys.ts`). */
export const GIVEN_KEY = 'Names the part within its list. Filled in where it is left out.';
export const GivenKey = Key.meta({ description: GIVEN_KEY });

/** Option codes are freer than keys: they are compared as text. */
export const Code = z
  .string()
  .min(1)
  .max(60)
  .regex(/^[^\s"\\][^"\\\n]*$/, 'shape/code');
