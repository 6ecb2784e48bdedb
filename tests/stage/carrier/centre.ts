import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { freePort } from '../../../scripts/setup/ports.mjs';
import { until } from '../stage.ts';

/** What the centre tells of itself. */
export interface Told {
  event: 'ready' | 'bound' | 'text' | 'taken' | 'gone' | 'nobody' | 'lives';
  id?: string;
  status?: number | string;
  from?: string;
  fromTon?: number;
  to?: string;
  toTon?: number;
  toNpi?: number;
  esm?: number;
  coding?: number;
  receipt?: number;
  hex?: string;
  seq?: number;
  user?: string;
}
/** Statuses of the next texts (SMPP 3.4 §5.1.3), or what happens instead of an answer. */
export type Next = number | 'silent' | 'breaks';

/** A short message centre whose protocol nobody here wrote: Debian's Net::SMPP. */
export interface Centre {
  address: string;
  user: string;
  password: string;
  told: Told[];
  texts(): Told[];
  /** How many are bound. */
  sessions(): number;
  rules(rules: { next?: Next[]; sessions?: number; hex?: 0 | 1; hold?: 0 | 1 }): void;
  /** Brings something to the last that was bound. */
  deliver(what: { from: string; hex: string; seq: number; [more: string]: unknown }): void;
  do(what: { do: 'break' | 'enquire' | 'answer' } | { do: 'raw'; hex: string }): void;
  stop(): Promise<void>;
  start(): Promise<void>;
}

export async function openCentre(): Promise<Centre> {
  const port = await freePort();
  const password = 'not told';
  const told: Told[] = [];
  let child: ReturnType<typeof spawn> | null = null;
  const say = (what: object) => void child?.stdin?.write(`${JSON.stringify(what)}\n`);
  const centre: Centre = {
    address: `smpp://127.0.0.1:${port}`,
    user: 'wrenfield',
    password,
    told,
    texts: () => told.filter(({ event }) => event === 'text'),
    sessions: () =>
      told.filter(({ event }) => event === 'bound').length - told.filter(({ event }) => event === 'gone').length,
    rules: (rules) => say({ do: 'rules', rules }),
    deliver: (what) => say({ do: 'deliver', ...what }),
    do: say,
    async start() {
      const before = told.length;
      child = spawn('perl', [join(import.meta.dirname, 'centre.pl'), String(port), password], {
        stdio: ['pipe', 'pipe', 'inherit'],
      });
      createInterface({ input: child.stdout! }).on('line', (line) => told.push(JSON.parse(line)));
      await until('the centre', () => told.slice(before).some(({ event }) => event === 'ready'));
    },
    async stop() {
      const ending = child;
      child = null;
      if (!ending) return;
      const over = new Promise((resolve) => ending.once('close', resolve));
      ending.kill('SIGKILL');
      await over;
      for (let left = centre.sessions(); left > 0; left--) told.push({ event: 'gone' });
    },
  };
  await centre.start();
  return centre;
}
