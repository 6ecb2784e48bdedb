import { join, resolve } from 'node:path';
import { z } from 'zod';

const flag = z
  .enum(['0', '1'])
  .default('0')
  .transform((value) => value === '1');

/** What the environment says; README.md lists the names. */
const Environment = z.object({
  DATABASE_URL: z.string().min(1),
  PINEBELL_PORT: z.coerce.number().int().min(0).max(65_535).default(4680),
  PINEBELL_HOST: z.string().default('127.0.0.1'),
  /** How people and services reach us; links and webhook addresses begin with it, and other host names are not answered. */
  PINEBELL_URL: z.url().optional(),
  /** More host names that are answered, with commas between them. */
  PINEBELL_HOSTS: z.string().default(''),
  PINEBELL_DATA: z.string().default('data'),
  PINEBELL_KEY: z.string().optional(),
  /** Where mail for mailbox sources is listened for; 0 switches it off. */
  PINEBELL_MAIL_PORT: z.coerce.number().int().min(0).max(65_535).default(4625),
  PINEBELL_MAIL_HOST: z.string().optional(),
  /** What stands after the @ of a mailbox source's address. */
  PINEBELL_MAIL_DOMAIN: z.string().optional(),
  /** Proxies in front of us whose X-Forwarded-For is believed. */
  PINEBELL_PROXIES: z.coerce.number().int().min(0).max(5).default(0),
  /** Lets connections lead to loopback and private addresses. */
  PINEBELL_ALLOW_INSIDE: flag,
  /** Addresses of the practice desk, and the key to its accounts: there when it can be switched on. */
  PRACTICE_URL: z.url().optional(),
  PRACTICE_SMTP_URL: z.url().optional(),
  PRACTICE_TOKEN: z.string().min(1).optional(),
  /** Who serves the pages while they are being written; without it they are the built ones. */
  PINEBELL_PAGES: z.url().optional(),
});

/** Where the practice desk is, and the key to its accounts. */
export interface PracticeDesk {
  url: string;
  smtp: string;
  token: string;
}

export interface Settings {
  databaseUrl: string;
  port: number;
  host: string;
  publicUrl: string;
  moreHosts: string[];
  dataFolder: string;
  key: string | undefined;
  keyFile: string;
  mailPort: number;
  mailHost: string;
  mailDomain: string;
  proxies: number;
  allowInside: boolean;
  practice: PracticeDesk | null;
  pagesUrl: string | null;
}

export function readSettings(env: NodeJS.ProcessEnv): Settings {
  const read = Environment.safeParse(env);
  if (!read.success) {
    const told = read.error.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`).join('; ');
    throw new Error(`The environment is not right. ${told}`);
  }
  const e = read.data;
  const dataFolder = resolve(e.PINEBELL_DATA);
  const publicUrl = (e.PINEBELL_URL ?? `http://${e.PINEBELL_HOST}:${e.PINEBELL_PORT}`).replace(/\/$/, '');
  return {
    databaseUrl: e.DATABASE_URL,
    port: e.PINEBELL_PORT,
    host: e.PINEBELL_HOST,
    publicUrl,
    moreHosts: e.PINEBELL_HOSTS.split(',')
      .map((one) => one.trim())
      .filter(Boolean),
    mailPort: e.PINEBELL_MAIL_PORT,
    mailHost: e.PINEBELL_MAIL_HOST ?? e.PINEBELL_HOST,
    mailDomain: (e.PINEBELL_MAIL_DOMAIN ?? new URL(publicUrl).hostname).toLowerCase(),
    dataFolder,
    key: e.PINEBELL_KEY,
    keyFile: join(dataFolder, 'secret.key'),
    proxies: e.PINEBELL_PROXIES,
    allowInside: e.PINEBELL_ALLOW_INSIDE,
    practice:
      e.PRACTICE_URL && e.PRACTICE_SMTP_URL && e.PRACTICE_TOKEN
        ? { url: e.PRACTICE_URL.replace(/\/$/, ''), smtp: e.PRACTICE_SMTP_URL, token: e.PRACTICE_TOKEN }
        : null,
    pagesUrl: e.PINEBELL_PAGES ?? null,
  };
}
