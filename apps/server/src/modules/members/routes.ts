import { hash, verify } from '@node-rs/argon2';
import { sql } from 'drizzle-orm';
import type { ServerContext } from '../../context.ts';
import { members } from '../../db/schema.ts';
import { DEMO_MEMBERS, DEMO_PASSWORD, isDemoMember } from '../../demo/members.ts';
import type { Handle } from '../../plugins/contract.ts';
import { SESSION_COOKIE } from '../../plugins/sessions.ts';
import { ProblemError } from '../../problem.ts';
import { DEVICE_COOKIE, DEVICE_COOKIE_SECONDS, SignInGuard } from './sign-in-guard.ts';

/** argon2id, with the parameters OWASP's password storage sheet gives: 19 MiB, 2 passes, 1 lane. */
const ARGON2 = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

export const hashPassword = (password: string): Promise<string> => hash(password, ARGON2);

/** Verified against when there is no such member, so that both refusals take as long. */
const nobody = hashPassword('nobody has this password');

export function memberRoutes(handle: Handle, { config, database, workspace }: ServerContext): void {
  const guard = new SignInGuard(database.pool, config.sessionSecret);

  handle('demoMembers', async () =>
    config.isDemo ? DEMO_MEMBERS.map(({ name, email, does }) => ({ name, email, does, password: DEMO_PASSWORD })) : [],
  );

  handle('members', async () => {
    const rows = await database.drizzle.select().from(members).where(sql`not is_guest`).orderBy(members.name).limit(2000);
    return rows.map(({ id, name, roles }) => ({ id, name, roles }));
  });

  handle('session', async ({ actor }) => ({
    member: { ...actor, email: actor.email ?? '', roles: [...actor.roles] },
    workspace: workspace.told(),
  }));

  handle('signIn', async ({ body, request, reply }) => {
    const one = { address: request.ip, email: body.email, device: request.cookies[DEVICE_COOKIE] };
    const member = await guard.attempt(one, async () => {
      const [found] = await database.drizzle
        .select()
        .from(members)
        .where(sql`not is_guest and lower(${members.email}) = ${body.email.toLowerCase()}`);
      const known = found && (config.isDemo || !isDemoMember(found.id)) ? found : null;
      const isRight = await verify(known?.passwordHash ?? (await nobody), body.password);
      return isRight ? known : null;
    });
    if (!member) throw new ProblemError('session/wrong-credentials');
    await request.session.regenerate();
    request.session.memberId = member.id;
    await request.session.save();
    reply.setCookie(DEVICE_COOKIE, guard.makeDevice(member.email), {
      httpOnly: true,
      sameSite: 'strict',
      secure: config.isSecure,
      path: '/api/session',
      maxAge: DEVICE_COOKIE_SECONDS,
    });
    const { id, name, email, roles } = member;
    return { member: { id, name, email, roles }, workspace: workspace.told() };
  });

  handle('signOut', async ({ request, reply }) => {
    await request.session.destroy();
    reply.clearCookie(SESSION_COOKIE, { path: '/' });
    return null;
  });
}
