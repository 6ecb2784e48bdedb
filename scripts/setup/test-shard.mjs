// One of the processes the tests run in: takes a file after the other from whoever started it, with one database and one browser for all of them.
import Mocha from 'mocha';
import { mochaHooks } from '../../tests/stage/postgres.ts';

const { Spec } = Mocha.reporters;

/** An error with what it came from. */
const whole = (error) =>
  [error?.stack ?? error, ...(error?.cause ? [`caused by ${whole(error.cause)}`] : [])].join('\n');

async function run(file) {
  const mocha = new Mocha({ timeout: 30_000, forbidOnly: true, reporter: Spec, color: false });
  mocha.addFile(file);
  await mocha.loadFilesAsync();
  const slow = [];
  const failed = [];
  const stats = await new Promise((resolve) => {
    const runner = mocha.run(() => resolve(runner.stats));
    runner.on('pass', (test) => slow.push([test.duration ?? 0, test.fullTitle()]));
    runner.on('fail', (test, error) => failed.push(`${test.fullTitle()}\n${whole(error)}`));
  });
  return { passes: stats.passes, failures: stats.failures, ms: stats.duration, slow, failed };
}

// Mocha adds its own for each file it runs.
process.setMaxListeners(0);

process.on('message', async ({ file }) => {
  if (file) {
    let told;
    try {
      told = await run(file);
    } catch (error) {
      const why = `${file} could not be loaded:\n${error?.stack ?? error}`;
      console.log(why);
      told = { passes: 0, failures: 1, ms: 0, slow: [], failed: [why] };
    }
    process.send({ file, ...told });
    return;
  }
  await mochaHooks.afterAll();
  process.exit(0);
});
process.send({ ready: true });
