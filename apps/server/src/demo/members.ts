/** The demo's people. All invented; shown on the sign-in page while the demo flag is on. */
export const DEMO_PASSWORD = 'museum-loans';
/** With which requests to the simulated insurer are signed. */
export const DEMO_INSURER_SECRET = 'a secret shared with the insurer';

export const DEMO_MEMBERS = [
  {
    id: '6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0001',
    name: 'Ines Halvard',
    email: 'ines@lindenmuseum.invalid',
    roles: ['analyst', 'administrator'],
    does: 'Analyst: designs the workflows',
  },
  {
    id: '6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0002',
    name: 'Rufus Okonjo',
    email: 'rufus@lindenmuseum.invalid',
    roles: ['registrar'],
    does: 'Registrar: checks loan requests',
  },
  {
    id: '6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0003',
    name: 'Carla Wendt',
    email: 'carla@lindenmuseum.invalid',
    roles: ['conservator'],
    does: 'Conservator: reviews delicate objects',
  },
  {
    id: '6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0004',
    name: 'Dorian Fells',
    email: 'dorian@lindenmuseum.invalid',
    roles: ['director'],
    does: 'Director: signs off',
  },
  {
    id: '6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0005',
    name: 'Beryl Quist',
    email: 'beryl@hollenstreet.invalid',
    roles: [],
    does: 'Borrower, Hollen Street Gallery: asks for loans',
  },
  {
    id: '6f1d2a52-0c1b-4f6e-9d10-5a7f6f3f0006',
    name: 'Tomas Arkin',
    email: 'tomas@quaysidestudy.invalid',
    roles: [],
    does: 'Borrower, Quayside Study Centre: asks for loans',
  },
] as const;

const DEMO_IDS: ReadonlySet<string> = new Set(DEMO_MEMBERS.map(({ id }) => id));

/** Whether a member is one of the demo's, whose password everybody knows: without the demo flag they are nobody. */
export const isDemoMember = (id: string): boolean => DEMO_IDS.has(id);

export const DEMO_WORKSPACE = { name: 'Linden Regional Museum', zone: 'Europe/Vienna', locale: 'en-GB' } as const;
