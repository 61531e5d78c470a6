import { isMailAddress } from '@ypomet/core';
import nodemailer from 'nodemailer';

export type Mail = {
  /** The delivery's id: the Message-ID is made from it, so that a receiver can drop repeats. */
  readonly id: string;
  readonly to: readonly string[];
  readonly subject: string;
  readonly body: string;
};

export type MailOutlet = { readonly send: (mail: Mail) => Promise<void>; readonly close: () => void };

/** A recipient that isn't one e-mail address: a mail server could read several, or none, in it. */
export class UnfitAddress extends Error {
  constructor(readonly position: number) {
    super('unfit address');
  }
}

const TIMEOUT_MS = 20_000;
const SENDER = { name: 'Ypomet', address: 'no-reply@ypomet.invalid' };

/** Sends mail over SMTP. Rejects when the server can't be reached, times out or refuses a recipient. */
export function makeMailOutlet(smtp: { readonly host: string; readonly port: number }): MailOutlet {
  const transport = nodemailer.createTransport({
    ...smtp,
    secure: false,
    ignoreTLS: smtp.host === '127.0.0.1',
    pool: true,
    connectionTimeout: TIMEOUT_MS,
    greetingTimeout: TIMEOUT_MS,
    socketTimeout: TIMEOUT_MS,
    disableFileAccess: true,
    disableUrlAccess: true,
  });
  return {
    send: async ({ id, to, subject, body }) => {
      const unfit = to.findIndex((address) => !isMailAddress(address));
      if (unfit >= 0) throw new UnfitAddress(unfit + 1);
      await transport.sendMail({
        from: SENDER,
        to: to.map((address) => ({ name: '', address })),
        subject,
        text: body,
        messageId: `<${id}@ypomet.invalid>`,
        headers: { 'X-Ypomet-Delivery': id, 'Auto-Submitted': 'auto-generated' },
      });
    },
    close: () => transport.close(),
  };
}
