import { z } from 'zod';
import { ExpressionText } from './field.ts';
import { GivenKey, Key } from './keys.ts';

/** `field := expression`. The key names it within its list. */
export const SetValue = z.strictObject({ key: GivenKey, field: Key, value: ExpressionText });
export type SetValue = z.infer<typeof SetValue>;
