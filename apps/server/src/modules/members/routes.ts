import { hash, verify } from '@node-rs/argon2';
import { sql } from 'drizzle-orm';
import type { ServerContext } from '../../context.ts';
import { members } from '../../db/schema.ts';
import { DEMO_MEMBERS, DEMO_PASSWORD } from '../../demo/members.ts';
import type { Handle } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';

/** argon2id, with the parameters OWASP's password storage sheet gives: 19 MiB, 2 passes, 1 lane. */
const ARGON2 = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

export const hashPassword = (password: string): Promise<string> => hash(password, ARGON2);

/** Verified against when there is no such member, so that both refusals take as long. */
const nobody = hashPassword('nobody has this password');

export function memberRoutes(handle: Handle, { config, database, workspace }: ServerContext): void {
  handle('demoMembers', async () =>
    config.isDemo ? DEMO_MEMBERS.map(({ name, email, does }) => ({ name, email, does, password: DEMO_PASSWORD })) : [],
  );

  handle('session', async ({ actor }) => ({
    member: { ...actor, email: actor.email ?? '', roles: [...actor.roles] },
    workspace,
  }));

  handle('signIn', async ({ body, request }) => {
    const [member] = await database.drizzle
      .select()
      .from(members)
      .where(sql`lower(${members.email}) = ${body.email.toLowerCase()}`);
    const isRight = await verify(member?.passwordHash ?? (await nobody), body.password);
    if (!member || !isRight) throw new ProblemError('session/wrong-credentials');
    await request.session.regenerate();
    request.session.memberId = member.id;
    await request.session.save();
    const { id, name, email, roles } = member;
    return { member: { id, name, email, roles }, workspace };
  });

  handle('signOut', async ({ request }) => {
    await request.session.destroy();
    return null;
  });
}
