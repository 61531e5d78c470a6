import { z } from 'zod';

const Address = z.email().max(254);

/** Whether a text is one e-mail address (an addr-spec of RFC 5322, as mail servers take it): no list, no group, no name. */
export const isMailAddress = (text: string): boolean => Address.safeParse(text).success;
