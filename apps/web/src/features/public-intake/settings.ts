import type { PublicLinkEntry, PublicLinkSettings } from '@ypomet/contract';

/** What a new link begins as: set up, and still off. */
export const newSettings = ({ texts }: PublicLinkEntry): PublicLinkSettings => ({
  isOpen: false,
  opensAt: null,
  closesAt: null,
  maxRecords: null,
  maxPerHour: 60,
  nameField: null,
  mailField: texts.find(({ key }) => /mail/i.test(key))?.key ?? null,
  acknowledgement: '',
  frames: [],
});

/** How far a link is used, in words. */
export function stateInWords({ link }: PublicLinkEntry): string {
  if (!link) return 'No public link yet';
  const { state, begun, settings } = link;
  const of = settings.maxRecords === null ? '' : ` of at most ${settings.maxRecords}`;
  const count =
    begun === 0 ? 'nothing has come by it yet' : `${begun}${of} ${begun === 1 ? 'record has' : 'records have'} come by it`;
  return `${STATES[state]} · ${count}`;
}

const STATES: Readonly<Record<NonNullable<PublicLinkEntry['link']>['state'], string>> = {
  open: 'Open',
  'not-yet': 'Opens later',
  over: 'Over',
  full: 'Full',
  off: 'Off',
};

/** What other sites put into their pages to show the form there. */
export const snippetOf = (origin: string, address: string, title: string): string =>
  `<iframe src="${origin}/embed/${address}" title="${title.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`)}" style="width:100%;height:900px;border:0"></iframe>`;
