import { type Clause, words } from './clause.ts';
import type { Reading } from './doing-words.ts';
import { FIRST } from './doings-first.ts';
import { FOR_TEAM } from './doings-for-team.ts';
import { ON_RECORD } from './doings-on-record.ts';
import { TO_COLLEAGUES } from './doings-to-colleagues.ts';
import { TO_LEAD } from './doings-to-lead.ts';
import type { Doing } from './draft.ts';
import type { KnownKind } from './known.ts';
import { NAMED } from './mask.ts';

/** In the order they are tried. */
const DOINGS = [...TO_COLLEAGUES, ...TO_LEAD, ...ON_RECORD, ...FOR_TEAM, ...FIRST];

/** Reads one doing at the front of a clause; null where there is none. */
export function readDoing(clause: Clause, reading: Reading): Doing[] | null {
  for (const [pattern, make] of DOINGS) {
    const mark = clause.mark();
    const read = clause.eat(pattern);
    const made = read && make(read, clause, reading, mark);
    if (made) return made;
    clause.back(mark);
  }
  return null;
}

/** "Tell Tomas and Oona", "put them on Newsletter and Practice tips": a name by itself goes on with the doing before it. */
export function goOn(clause: Clause, last: Doing | null, reading: Reading): Doing[] | null {
  if (!last) return null;
  const mark = clause.mark();
  const read = clause.eat(words(`(?:to |on |onto |with )?(?:the )?(?:tag |list )?(${NAMED})`));
  const find = (kind: KnownKind) => (read ? (reading.find(read[1]!, kind)?.id ?? null) : null);
  const more: Record<string, [KnownKind, string]> = {
    tell: ['colleague', 'colleague'],
    list: ['list', 'list'],
    tag: ['tag', 'tag'],
  };
  const of = more[last.kind];
  const id = of && find(of[0]);
  if (of && id) return [{ ...last, settings: { ...last.settings, [of[1]]: id } }];
  clause.back(mark);
  return null;
}
