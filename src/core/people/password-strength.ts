import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary as common } from '@zxcvbn-ts/language-common';
import { dictionary as english, translations } from '@zxcvbn-ts/language-en';

export const SHORTEST_PASSWORD = 10;
/** Argon2 takes longer ones too; a text of a megabyte is nobody's password. */
export const LONGEST_PASSWORD = 256;
/** "Safely unguessable" of the estimator's five steps (0 to 4): over 10^8 guesses. */
const STRONG_ENOUGH = 3;

// Made when first needed: its word lists take a moment.
let estimator: ZxcvbnFactory | null = null;

/**
 * What is wrong with a password somebody chooses, in words that say what to do; null when nothing is. Strength is estimated by zxcvbn (Wheeler, "zxcvbn:
 * Low-Budget Password Strength Estimation", USENIX Security 2016), which knows common passwords, names, keyboards and dates.
 *
 * @param about what is known of them, which makes a poor password: their name, address, business
 */
export function passwordWeakness(password: string, about: readonly string[]): string | null {
  if ([...password].length < SHORTEST_PASSWORD) return `Choose a password of at least ${SHORTEST_PASSWORD} characters.`;
  if ([...password].length > LONGEST_PASSWORD) return `Choose a password of at most ${LONGEST_PASSWORD} characters.`;
  estimator ??= new ZxcvbnFactory({
    dictionary: { ...common, ...english },
    graphs: adjacencyGraphs,
    translations,
  });
  const words = about.flatMap((one) => [one, ...one.split(/[\s@._-]+/)]).filter((word) => word.length > 2);
  const { score, feedback } = estimator.check(password.slice(0, 100), words);
  if (score >= STRONG_ENOUGH) return null;
  const why = feedback.warning ? ` ${feedback.warning.replace(/\.?$/, '.')}` : '';
  return `This password is guessed easily.${why} Three or four words that do not belong together make a good one.`;
}
