import { buildServer } from './app.ts';
import { readConfig } from './config.ts';
import { seedDemo } from './demo/seed.ts';

const config = readConfig(process.env);
const { app, context } = await buildServer(config);
if (config.isDemo) await seedDemo(context);
const address = await app.listen({ port: config.port, host: config.host });
process.stdout.write(`ready ${address}\n`);

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
