import { buildServer } from './app.ts';
import { readConfig } from './config.ts';
import { seedDemo } from './demo/seed.ts';

const config = readConfig(process.env);
const { app, context } = await buildServer(config);
if (config.isDemo) await seedDemo(context);
const address = await app.listen({ port: config.port, host: config.host });
process.stdout.write(`ready ${address}\n`);

/** What PostgreSQL and its driver say when a connection is lost: each request under way has failed and said so. */
const LOST_CONNECTION = /^(57P0[1-3]|08\d{3}|ECONN[A-Z]+|EPIPE)$/;
process.on('unhandledRejection', (reason) => {
  const { code = '', message } = reason as { code?: string; message?: string };
  if (LOST_CONNECTION.test(code) || /^Connection terminated/.test(message ?? '')) {
    app.log.error({ code, message }, 'a connection to PostgreSQL was lost');
    return;
  }
  app.log.fatal({ message }, 'a fault nobody handled');
  process.exit(1);
});

let isStopping = false;
/** Answers what is under way, then stops; a second signal doesn't wait. */
async function stop(): Promise<void> {
  if (isStopping) process.exit(1);
  isStopping = true;
  await app.close();
  process.exit(0);
}
process.on('SIGINT', stop);
process.on('SIGTERM', stop);
