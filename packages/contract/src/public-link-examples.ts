import { AT, FORM, HEADER, ID, MEMBER, type OperationNote, WORKSPACE } from './example-parts.ts';
import type { PUBLIC_LINK_ROUTES } from './public-link-routes.ts';

const ADDRESS = 'q1Xz7Rr0m2cV9bT4kLw8Pg';
const SETTINGS = {
  isOpen: true,
  opensAt: AT,
  closesAt: null,
  maxRecords: 200,
  maxPerHour: 60,
  nameField: 'visitor',
  mailField: null,
  acknowledgement: 'Thank you, {{visitor}}.',
  frames: ['https://museum.invalid'],
};
const ENTRY = {
  stage: 'ask',
  stageName: 'Ask',
  link: { settings: SETTINGS, address: ADDRESS, begun: 3, state: 'open' },
  texts: [{ key: 'visitor', name: 'Visitor' }],
  remarks: [],
};

/** What a stranger needs to know of public links. */
export const PUBLIC_LINK_NOTES: Readonly<Record<keyof typeof PUBLIC_LINK_ROUTES, OperationNote>> = {
  publicLinks: {
    does: 'Lists the intakes of the published version, with the public link of each that has one, and what guests couldn’t do there.',
    params: { key: 'visit' },
    response: [ENTRY],
  },
  putPublicLink: {
    does: 'Sets up how people without an account may begin records at an intake: whether, from when, until when, how many.',
    refuses: ['link/unfit', 'workflow/not-published'],
    params: { key: 'visit', stage: 'ask' },
    body: SETTINGS,
    response: ENTRY,
  },
  renewPublicLink: {
    does: 'Gives a public link another address. The old one leads nowhere from then on; addresses at which records are followed go on.',
    params: { key: 'visit', stage: 'ask' },
    response: ENTRY,
  },
  publicIntake: {
    does: 'Tells whether a public link is open, and where it is, gives its form with a pass. The pass is sent as `Authorization: Bearer` from then on: it hands in one record, and follows it for ever.',
    params: { address: ADDRESS },
    response: {
      workspace: WORKSPACE,
      name: 'Study visit',
      stageName: 'Ask',
      state: 'open',
      opensAt: AT,
      closesAt: null,
      intake: { pass: 'AZ3k…', guest: MEMBER, form: FORM, record: { ...HEADER, number: null } },
    },
  },
  publicForm: {
    does: 'Gives the form of a public link with what was entered so far worked in, as the pass’s holder may see it.',
    refuses: ['link/shut', 'hand-off/refused'],
    params: { address: ADDRESS },
    body: { values: { visitor: 'Beryl Quist' } },
    response: FORM,
  },
  beginPublicly: {
    does: 'Begins a record and hands it on, once for a pass. What an unseen input holds, or a form sent within three seconds, is refused as a program’s.',
    refuses: ['link/shut', 'link/used', 'link/looks-automatic', 'hand-off/refused', 'server/outcome-unknown'],
    params: { address: ADDRESS },
    body: { handOff: 'send', values: { visitor: 'Beryl Quist' } },
    response: { record: HEADER, acknowledgement: null, next: null, opened: [], opening: 0 },
  },
  confirmAddress: {
    does: 'Confirms an address with the token of the mail that asked for it. Mails that waited for it are sent then. Asked again, it answers the same.',
    refuses: ['confirmation/over'],
    body: { token: 'WyJiZXJ5bCJd.c2lnbmVk' },
    response: { address: 'beryl@hollenstreet.invalid', workspace: WORKSPACE.name },
  },
  followed: {
    does: 'Tells which record was begun by a pass. That is then read and handed on as any record is, with the pass instead of a session.',
    response: { workspace: WORKSPACE, guest: { id: MEMBER, name: 'Beryl Quist' }, record: ID },
  },
};
