import type { Condition } from '../condition/condition.ts';
import type { Definition } from '../workflow/definition.ts';
import { type Clause, clausesOf, words } from './clause.ts';
import { inverse, readCondition } from './conditions.ts';
import type { Missing, Reading } from './doing-words.ts';
import { goOn, readDoing } from './doings.ts';
import { type Doing, Draft, type Mark } from './draft.ts';
import { fold, type KnownKind, type KnownThing } from './known.ts';
import { mask } from './mask.ts';
import { readOpening } from './openings.ts';
import { readRule, takeSpokenRules } from './rules.ts';
import { readEvent, readOrAfter, readTime, readWithin } from './times.ts';

/** Letters of a sentence that are read at most. */
export const LONGEST_SENTENCE = 3000;

/** Something somebody has to say before the sheet is whole: which source, which list, who. */
export interface SentenceAsks extends Missing {
  /** The same each time the same sentence is read. */
  id: string;
  options: { id: string; name: string }[];
}

export interface SentenceRead {
  sheet: Definition;
  marks: Mark[];
  asks: SentenceAsks[];
  /** What was not understood, as places in the sentence. */
  unread: { from: number; to: number }[];
}

/** Words that join and fill. */
const FILLERS = words(
  "and|then|also|too|as well|afterwards|after that|next(?! (?:morning|day|working|weekday|business))|finally|lastly|please|at once|immediately|straight away|right away|at the same time|in the end|on arrival|first(?: of all)?|every new lead|one of these|as (?:a|the) (?:first|next|last) step|i want(?: you)? to|i would like to|i'd like to|we want to|you should|it should|i|we|you|on record|for the team|to the team|in that case|but|just",
);
/** What held names together that turn out to be two things said. */
const JOINED = /^\s*[\u201A\u2014]+/u;
const WITHOUT_REPLY = words(
  'without (?:a|an|any) (?:reply|answer|response)|with no (?:reply|answer|response)|of silence',
);
const OTHERWISE = words('otherwise|or else|else|if not|in all other cases');
const IF = words('(?:but )?(?:only )?(?:if|when|where|provided(?: that)?|for those who|in case)');
const UNLESS = words('unless|except (?:if|when)');
const IN_BRACKETS = /^\s*\((?=only when|by )/u;

/**
 * Reads what somebody wants in their own words as a run sheet. `things` are what the business has a name for, `answers` what was said to the questions of an
 * earlier reading (by id), `blank` what a kind of step begins with. Nothing is guessed that could go to the wrong person: who and which, where it is
 * not known by its name, is asked; and what was not understood is said.
 */
export function readSentence(typed: string, things: readonly KnownThing[], how: Reader): SentenceRead {
  const text = typed.slice(0, LONGEST_SENTENCE);
  let best = readNaming(text, things, how, new Set());
  const everyday = new Set<string>();
  // A list may be called "Later" or "Have": where an everyday word taken for a name leaves something unread, it was no name.
  for (const word of oneWordNames(text, things)) {
    if (best.unread.length === 0) break;
    const without = readNaming(text, things, how, new Set([...everyday, word]));
    if (lettersUnread(without) >= lettersUnread(best) || without.asks.length > best.asks.length) continue;
    best = without;
    everyday.add(word);
  }
  return best;
}

interface Reader {
  blank(kind: string): Record<string, unknown>;
  answers?: Readonly<Record<string, string>>;
}

const lettersUnread = ({ unread }: SentenceRead) => unread.reduce((sum, { from, to }) => sum + to - from, 0);

/** Names of one word that stand in a sentence, outside quotes: each once. */
const oneWordNames = (text: string, things: readonly KnownThing[]): string[] => [
  ...new Set(
    mask(text, things).tokens.flatMap((token) =>
      token.is === 'name' && !/\s/.test(token.text) ? [fold(token.text)] : [],
    ),
  ),
];

function readNaming(
  text: string,
  things: readonly KnownThing[],
  { blank, answers = {} }: Reader,
  everyday: ReadonlySet<string>,
): SentenceRead {
  const draft = new Draft();
  const plain = takeSpokenRules(text, draft.sheet.rules, (from, to) =>
    draft.marks.push({ from, to, made: 'rule', id: '' }),
  );
  const masked = mask(plain, things, everyday);
  const folded = fold(text);
  const asks: SentenceAsks[] = [];
  const unread: SentenceRead['unread'] = [];
  const reading: Reading = {
    fields: things.filter(({ kind }) => kind === 'field'),
    find(letter, kind) {
      const token = masked.tokens[letter.charCodeAt(0) & 0x3ff];
      const fits = token && 'things' in token ? token.things.filter((one) => one.kind === kind) : [];
      return fits.length === 1 ? fits[0]! : null;
    },
    ask(heard) {
      // As it was typed, not as it is compared.
      const at = heard.said === '' ? -1 : folded.indexOf(fold(heard.said), Math.max(0, heard.from - 1));
      const missing = at < 0 ? heard : { ...heard, said: text.slice(at, at + heard.said.length) };
      const id = `${missing.kind}-${missing.from}-${missing.said.toLowerCase().slice(0, 40)}`;
      const given = answers[id];
      const ofKind = things.filter(({ kind }) => kind === missing.kind);
      if (given !== undefined && ofKind.some((one) => one.id === given)) return given;
      if (!asks.some((one) => one.id === id))
        asks.push({ ...missing, id, options: fitting(ofKind, missing).map((one) => ({ id: one.id, name: one.name })) });
      return '';
    },
  };
  const find = (letter: string, kind: KnownKind) => reading.find(letter, kind);
  let last: Doing | null = null;
  let lastRule: string | null = null;
  /** What a guard of this sentence was, for its "otherwise". */
  let guarded: Condition | null = null;

  const place = (made: Doing[], clause: Clause, mark: number, onlyIf: Condition | null) => {
    for (const one of made) {
      const id = draft.add(one, blank(one.kind), onlyIf);
      draft.marks.push({ ...clause.since(mark), made: 'step', id });
      last = one;
    }
  };

  const readClause = (clause: Clause, beginning: boolean): void => {
    for (;;) {
      while (clause.eat(FILLERS) ?? clause.eat(JOINED));
      if (clause.done) return;
      const mark = clause.mark();
      if (beginning && draft.sheet.sources.length === 0 && draft.sheet.moments.length === 1 && draft.empty) {
        const sources = readOpening(clause, reading);
        if (sources) {
          draft.sheet.sources.push(...sources.filter((id) => !draft.sheet.sources.includes(id)));
          draft.marks.push({ ...clause.since(mark), made: 'source', id: '' });
          beginning = false;
          continue;
        }
      }
      const rule = readRule(clause, draft, lastRule);
      lastRule = rule;
      if (rule) {
        draft.marks.push({ ...clause.since(mark), made: 'rule', id: rule });
        continue;
      }
      if (readMoment(clause, mark) || readGuard(clause, mark)) continue;
      const made = readDoing(clause, reading) ?? goOn(clause, last, reading);
      if (!made) {
        unread.push(clause.place);
        return;
      }
      finish(clause, mark, made);
    }
  };

  /** A time, or something that is waited for. */
  function readMoment(clause: Clause, mark: number): boolean {
    const within = draft.moment.at.kind === 'event' ? readOrAfter(clause) : null;
    if (within && draft.moment.at.kind === 'event') {
      draft.moment.at.within = within;
      draft.take(null);
      draft.marks.push({ ...clause.since(mark), made: 'moment', id: draft.moment.id });
      return true;
    }
    const event = readEvent(clause, find);
    const at = event?.at ?? readTime(clause, find);
    if (!at) return false;
    draft.begin(at, event?.side ?? null);
    if (!event && clause.eat(WITHOUT_REPLY)) draft.take('no');
    draft.marks.push({ ...clause.since(mark), made: 'moment', id: draft.moment.id });
    guarded = null;
    return true;
  }

  /** What holds for what is said next: "if they agreed to texts", "if they have not replied", "otherwise". */
  function readGuard(clause: Clause, mark: number): boolean {
    if (clause.eat(OTHERWISE)) {
      const other = guarded && inverse(guarded);
      if (guarded && !other) {
        clause.back(mark);
        return false;
      }
      draft.take(null);
      if (other) draft.guard = other;
      draft.marks.push({ ...clause.since(mark), made: 'condition', id: draft.moment.id });
      return true;
    }
    const unless = clause.eat(UNLESS) !== null;
    if (!unless && !clause.eat(IF) && draft.guard === null && !(draft.empty && draft.sheet.moments.length === 1))
      return false;
    const asked = readCondition(clause, find);
    if (!asked) {
      clause.back(mark);
      return false;
    }
    if ('reply' in asked) {
      const side = unless ? (asked.reply === 'yes' ? 'no' : 'yes') : asked.reply;
      const span = readWithin(clause);
      draft.take(side);
      if (span && draft.moment.at.kind === 'event') draft.moment.at.within = span;
      draft.marks.push({ ...clause.since(mark), made: 'moment', id: draft.moment.id });
      return true;
    }
    const condition = unless ? inverse(asked.condition) : asked.condition;
    if (!condition) {
      clause.back(mark);
      return false;
    }
    draft.guard = draft.guard
      ? { all: [...('all' in draft.guard ? draft.guard.all : [draft.guard]), condition] }
      : condition;
    guarded = draft.guard;
    draft.marks.push({ ...clause.since(mark), made: 'condition', id: draft.moment.id });
    return true;
  }

  /** What stands behind a doing is about it: "text them two days later", "put them on Newsletter if they agreed to emails". */
  function finish(clause: Clause, mark: number, made: Doing[]): void {
    let onlyIf: Condition | null = null;
    const { marks } = draft;
    for (;;) {
      const begun = clause.mark();
      clause.eat(IN_BRACKETS);
      if (
        clause.eat(
          words('(?:or )?by (?:e-?mail|text) if (?:it|that|the text|the e-?mail) (?:is refused|fails|does not go)'),
        )
      ) {
        for (const one of made) one.instead = true;
        clause.eat(/^\s*[;)]+/);
        continue;
      }
      const at = readTime(clause, find);
      if (at) {
        marks.push({ ...clause.since(begun), made: 'moment', id: draft.begin(at) });
        continue;
      }
      const unless = clause.eat(UNLESS) !== null;
      const asked = unless || clause.eat(IF) ? readCondition(clause, find) : null;
      if (asked && 'reply' in asked) {
        draft.take(unless ? (asked.reply === 'yes' ? 'no' : 'yes') : asked.reply);
        const span = readWithin(clause);
        if (span && draft.moment.at.kind === 'event') draft.moment.at.within = span;
        marks.push({ ...clause.since(begun), made: 'moment', id: draft.moment.id });
        continue;
      }
      const condition = asked && (unless ? inverse(asked.condition) : asked.condition);
      if (condition) {
        onlyIf = condition;
        guarded = condition;
        clause.eat(/^\s*[;)]+/);
        marks.push({ ...clause.since(begun), made: 'condition', id: draft.moment.id });
        continue;
      }
      clause.back(begun);
      break;
    }
    place(made, clause, mark, onlyIf);
  }

  for (const sentence of clausesOf(masked)) {
    draft.guard = null;
    lastRule = null;
    sentence.forEach((clause, i) => {
      readClause(clause, i === 0);
    });
  }
  const { sheet } = draft;
  if (sheet.sources.length === 0 && !asks.some(({ kind }) => kind === 'source')) {
    const id = reading.ask({ kind: 'source', said: '', from: 0, to: 0 });
    if (id !== '') sheet.sources.push(id);
  }
  // A time at whose end nothing was to be done.
  while (sheet.moments.length > 1 && draft.empty) {
    const { id } = sheet.moments.pop()!;
    unread.push(
      ...draft.marks.filter((one) => one.made === 'moment' && one.id === id).map(({ from, to }) => ({ from, to })),
    );
  }
  return { sheet, marks: draft.marks, asks, unread };
}

/** What could be meant, what sounds like it first. */
function fitting(all: readonly KnownThing[], { said, kinds = [] }: Missing): KnownThing[] {
  const heard = said
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word.length > 2);
  const score = ({ name, sourceKind }: KnownThing) =>
    heard.filter((word) => name.toLowerCase().includes(word)).length * 2 +
    (sourceKind && kinds.includes(sourceKind) ? 1 : 0);
  return [...all].sort((a, b) => score(b) - score(a) || a.name.localeCompare(b.name));
}
