// CPU and memory of process trees, read from /proc.
import { execFileSync, spawn } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const HZ = Number(execFileSync('getconf', ['CLK_TCK']).toString());

function readStats() {
  const stats = new Map();
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    try {
      const line = readFileSync(`/proc/${name}/stat`, 'latin1');
      const f = line.slice(line.lastIndexOf(')') + 2).split(' ');
      // f[1] = ppid; f[11..14] = utime, stime, and those of the children already waited for.
      stats.set(Number(name), { ppid: Number(f[1]), cpu: (+f[11] + +f[12] + +f[13] + +f[14]) / HZ });
    } catch {
      /* gone meanwhile */
    }
  }
  return stats;
}

/** The pids given and all that descend from them. */
function tree(stats, roots) {
  const wanted = new Set(roots);
  for (let grew = true; grew; ) {
    grew = false;
    for (const [pid, s] of stats)
      if (!wanted.has(pid) && wanted.has(s.ppid)) {
        wanted.add(pid);
        grew = true;
      }
  }
  return [...wanted].filter((pid) => stats.has(pid));
}

/** CPU seconds used so far by each named group of process trees: {name: [pid, …]} -> {name: seconds}. */
export function cpuSeconds(groups) {
  const stats = readStats();
  return Object.fromEntries(
    Object.entries(groups).map(([name, roots]) => [
      name,
      tree(stats, roots).reduce((sum, pid) => sum + stats.get(pid).cpu, 0),
    ]),
  );
}

/** CPU seconds the whole machine has been busy so far (user, nice, system, irq, softirq): all processes, ours or not. */
export function machineBusySeconds() {
  const [, user, nice, system, , , irq, softirq] = readFileSync('/proc/stat', 'latin1')
    .split('\n')[0]
    .split(/\s+/)
    .map(Number);
  return (user + nice + system + irq + softirq) / HZ;
}

/** CPU seconds the host has kept from this machine so far, as far as it says so. */
export const stolenSeconds = () => Number(readFileSync('/proc/stat', 'latin1').split('\n')[0].split(/\s+/)[8]) / HZ;

/** Memory in MiB of each group: `peak` = sum of each process's own peak RSS, `pss` = shared pages counted once. */
export function memory(groups) {
  const stats = readStats();
  return Object.fromEntries(
    Object.entries(groups).map(([name, roots]) => {
      let peak = 0,
        pss = 0;
      for (const pid of tree(stats, roots)) {
        try {
          peak += Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'latin1'))?.[1] ?? 0) / 1024;
          pss += Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'latin1'))?.[1] ?? 0) / 1024;
        } catch {
          /* gone meanwhile */
        }
      }
      return [name, { peak: Math.round(peak), pss: Math.round(pss) }];
    }),
  );
}

/** Start a Node script beside this folder; resolves when it prints its `ready` line (a JSON object). */
export function start(script, { args = [], env = {} } = {}) {
  const path = fileURLToPath(new URL(`../${script}`, import.meta.url));
  const child = spawn(process.execPath, [path, ...args], {
    env: { ...process.env, NODE_ENV: 'production', ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const stop = () =>
    new Promise((resolve) => {
      if (child.exitCode !== null || child.signalCode !== null) return resolve();
      child.once('exit', resolve);
      child.kill('SIGTERM');
      setTimeout(() => child.kill('SIGKILL'), 10_000).unref();
    });
  return new Promise((resolve, reject) => {
    let text = '';
    child.once('exit', (code) => reject(new Error(`${script} ended with ${code}`)));
    child.stdout.on('data', (chunk) => {
      text += chunk;
      const line = /^ready (.*)$/m.exec(text);
      if (line) resolve({ pid: child.pid, stop, ...JSON.parse(line[1]) });
    });
  });
}
