import { buildServer } from './app.ts';
import { readConfig } from './config.ts';
import { isUnavailable } from './db/database.ts';
import { seedDemo } from './demo/seed.ts';

const config = readConfig(process.env);
const { app, context } = await buildServer(config);
if (config.isDemo) await seedDemo(context);
const address = await app.listen({ port: config.port, host: config.host });
process.stdout.write(`ready ${address}\n`);

process.on('unhandledRejection', (reason) => {
  const { code = '', message } = reason as { code?: string; message?: string };
  // What was under way on a lost connection has failed and said so.
  if (isUnavailable(reason)) {
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
