// A process of ours that has loaded its packages and waits to be told to begin: what was loaded before a save is not loaded after it.
const [file, ...packages] = process.argv.slice(2);
const build = new URL('../../build/', import.meta.url);
// One that cannot be loaded is told of by whoever needs it.
await Promise.allSettled(packages.map((name) => import(name.startsWith('.') ? new URL(name, build).href : name)));
process.on('disconnect', () => process.exit(0));
process.once('message', ({ env }) => {
  process.removeAllListeners('disconnect');
  Object.assign(process.env, env);
  return import(new URL(file, build).href);
});
