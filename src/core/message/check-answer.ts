import { readNumber } from '../fields/read-number.ts';
import { readPhone } from '../people/phone.ts';
import { readDate } from '../time/read-date.ts';
import { readEmail } from './email-address.ts';
import { saysOneOf } from './says-one-of.ts';

/** What an answer to a question can be asked to be, in the coordinator's words. */
export const ANSWER_KINDS = {
  anything: 'Anything they write',
  yes_no: 'Yes or no',
  choice: 'One of these',
  number: 'A number',
  date: 'A date',
  email: 'An email address',
  phone: 'A phone number',
} as const;
export type AnswerKind = keyof typeof ANSWER_KINDS;

/** What is sent when an answer does not fit, where the coordinator says nothing else. */
export const ANSWER_HINTS: Record<AnswerKind, string> = {
  anything: 'Sorry, we did not get that. Please answer once more.',
  yes_no: 'Sorry, we did not get that. Please answer yes or no.',
  choice: 'Sorry, we did not get that. Please answer with one of the numbers.',
  number: 'Sorry, we did not get that. Please answer with a number.',
  date: 'Sorry, we did not get that. Please answer with a date, for example 24 December.',
  email: 'Sorry, that does not look like an email address. Please write it once more.',
  phone: 'Sorry, that does not look like a phone number. Please write it once more.',
};

const YES = 'yes\ny\nyeah\nyep\nyup\nok\nokay\nsure\nplease\noui\nja\nsi\nsim';
const NO = 'no\nn\nnope\nnot\nnever\nnon\nnein\nnao\nnão';
const MOST = 1000;

/**
 * Reads a written answer as what was asked for; null when it does not fit. A choice is known by its number in the list, or by
 * its words, alone or in a sentence that says no other. "country" (ISO 3166-1) reads dates and phone numbers.
 */
export function checkAnswer(
  { kind, choices }: { kind: AnswerKind; choices: readonly string[] },
  written: string,
  country: string,
): string | null {
  const text = written.trim();
  if (text === '') return null;
  switch (kind) {
    case 'anything':
      return text.slice(0, MOST);
    case 'yes_no': {
      const [yes, no] = [saysOneOf(text, YES), saysOneOf(text, NO)];
      return yes === no ? null : yes ? 'Yes' : 'No';
    }
    case 'choice':
      return chosen(choices, text);
    case 'number': {
      const read = readNumber(text);
      return read === null ? null : String(read);
    }
    case 'date':
      return readDate(text, country);
    case 'email': {
      const read = readEmail(text);
      return read.ok ? read.address : null;
    }
    case 'phone': {
      const read = readPhone(text, country);
      return read.ok ? read.e164 : null;
    }
  }
}

function chosen(choices: readonly string[], text: string): string | null {
  // Its own words come first: where the choices are numbers themselves, "2" means the choice "2".
  const whole = choices.filter((choice) => saysOneOf(choice, text) && saysOneOf(text, choice));
  if (whole.length === 1) return whole[0]!;
  const numbered = /^\(?(\d{1,2})[).]?$/.exec(text)?.[1];
  if (numbered) return choices[Number(numbered) - 1] ?? null;
  const said = choices.filter((choice) => saysOneOf(text, choice));
  if (said.length === 1) return said[0]!;
  // "Mon" for "Monday", when only one begins so.
  const begun = choices.filter((choice) => choice.toLocaleLowerCase('en').startsWith(text.toLocaleLowerCase('en')));
  return text.length >= 2 && begun.length === 1 ? begun[0]! : null;
}
