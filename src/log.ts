import pino from 'pino';
import { failureStack, failureWords } from './failure-words.ts';

/** An error for the log: in words, where it happened, and what was behind it. Nothing of a person: failure-words.ts says why. */
const errorForLog = (error: unknown): object => ({
  message: failureWords(error),
  stack: failureStack(error),
  ...(error instanceof Error && error.cause !== undefined ? { cause: errorForLog(error.cause) } : {}),
});

/**
 * The log of a process, a line of JSON for each entry, on its standard error; written at once, so that the last words before a crash are there.
 * `scope` says which part speaks; what something is about is named by id (`run`, `lead`, `source`, `delivery`), never by what a person is called or
 * wrote. LOG_LEVEL says how much: error, warn, info (as it is without), debug.
 */
export const log = pino(
  {
    level: process.env.LOG_LEVEL ?? 'info',
    base: null,
    formatters: { level: (label) => ({ level: label }) },
    timestamp: pino.stdTimeFunctions.isoTime,
    serializers: { err: errorForLog },
  },
  pino.destination({ dest: 2, sync: true }),
);
