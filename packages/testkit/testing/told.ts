import { type HandedOn, type MailConsequence, writePlain } from '@ypomet/core';

/** The mails of a hand-off, with their text as plain text. */
export const mailsOf = ({ deliveries }: Pick<HandedOn, 'deliveries'>) =>
  deliveries
    .filter((one): one is MailConsequence => one.type === 'mail')
    .map((mail) => ({ ...mail, body: writePlain(mail.body) }));

/** What the acknowledgement says; undefined where there is none. */
export const answerOf = ({ acknowledgement }: Pick<HandedOn, 'acknowledgement'>): string | undefined =>
  acknowledgement ? writePlain(acknowledgement.text) : undefined;
