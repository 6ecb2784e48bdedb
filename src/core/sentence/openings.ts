import { type Clause, words } from './clause.ts';
import type { Reading } from './doing-words.ts';
import type { KnownThing } from './known.ts';
import { NAMED } from './mask.ts';

const WHEN = '(?:when(?:ever)?|if|as soon as|every time|each time|once)';
const SOMEBODY =
  '(?:somebody|someone|anybody|anyone|people|they|you|we|an?(?: new)? (?:lead|person|customer|visitor|guest|contact|subscriber|parent|pupil|student|client)|(?:new )?(?:leads|customers|people))';
const THING_COMES =
  '(?:an?|the|another|every|each)?(?: new)? ?(?:leads?|rows?|orders?|bookings?|(?:e-?)?mails?|messages?|entry|entries|calls?|episodes?|articles?|submissions?|enquiry|enquiries|contacts?|answers?)';
const WHAT = '(?: (?:form|page|sheet|table|list|calendar|shop|source|mailbox|inbox|feed|podcast|funnel|number))?';
const OUR = '(?:the |our |my |a |an |your )?';

/** What somebody does who comes in, and the kinds of source by which that can be. */
const DOES: readonly [words: string, kinds: readonly string[]][] = [
  ['(?:fills? (?:in|out)|completes?|submits?|sends? in|answers?)', ['form-page', 'ad-form', 'funnel', 'webhook']],
  [
    '(?:signs? (?:up|in)|opts? in|registers?|subscribes?)(?: (?:at|on|by|through|with|for|to|in|via))?',
    ['form-page', 'funnel', 'ad-form', 'list'],
  ],
  [
    'books?(?: (?:an?|their)(?: new)? (?:appointment|slot|lesson|time|call|visit|talk|trial lesson))?(?: (?:in|with|by|through|on|at|via))?',
    ['booking-calendar'],
  ],
  ['(?:orders?|buys?)(?: something)?(?: (?:in|at|from|on))?', ['shop']],
  [
    '(?:mails?|e-?mails?|writes? an e-?mail|sends? (?:us )?an? (?:e-?mail|mail|enquiry))(?: (?:us|to))?(?: (?:at|to|by))?',
    ['mailbox'],
  ],
  [
    '(?:writes?(?: to us| us)?(?: a message)?(?: (?:in|on|by) chat)?|messages us|chats with us|sends? us a (?:chat )?message)(?: (?:at|on|in|by|to))?',
    ['chat-message'],
  ],
  ['(?:calls?|rings?|phones?)(?: us)?(?: (?:at|on))?', ['webhook']],
  ['joins?', ['list']],
  [
    '(?:comes? in|rings? in|arrives?|gets in touch|asks?(?: for something)?)(?: again)?(?: (?:by|through|from|via|on|at|in))?',
    [],
  ],
  ['(?:is|are) (?:added|put) (?:to|on|onto|in|into)', ['list', 'sheet']],
];
const COMES =
  '(?:comes? in|come in|arrives?|arrive|is added|are added|is published|comes out|appears?|is made|is placed|is written|is missed|rings? in)(?: (?:to|in|into|by|from|through|at|on|via|of))?';

/** By which sources leads come in, at the front of a sentence; null where it does not begin so. */
export function readOpening(clause: Clause, reading: Reading): string[] | null {
  const from = clause.mark();
  const listed = clause.eat(
    words(
      `(?:leads come in by |(?:for|to) (?:every|each|all|everybody|everyone)(?: new)?(?: (?:leads?|rows?|orders?|bookings?|entry|entries|people))?(?: who comes? in)? (?:of|from|in|by|through|on) ${OUR}|(?:new )?(?:leads?|rows?|orders?|entries|people|bookings?) (?:who come in )?(?:by|from|of|in|through) ${OUR})(${NAMED}(?:(?:\u201A| \u2014\u2014\u2014)? ?${NAMED})*)${WHAT}`,
    ),
  );
  if (listed) {
    const all = [...listed[1]!].filter((letter) => letter >= '\uE000' && letter <= '\uEBFF');
    const found = all.map((letter) => sourceOf(letter, clause, reading, from, []));
    if (found.every((id) => id !== null)) return found.filter((id) => id !== '') as string[];
    clause.back(from);
  }
  if (clause.eat(words('no source is chosen yet'))) return [];
  for (const [does, kinds] of DOES) {
    const source = byWords(`${WHEN} ${SOMEBODY}(?: who)? ${does}`, kinds);
    if (source !== null) return source;
  }
  return (
    byWords(`${WHEN} ${THING_COMES} ${COMES}`, []) ??
    byWords(
      `(?:on|with|after|at) (?:an?|every|each) (?:new )?(?:lead|row|order|booking|entry|message|e-?mail|missed call)(?: (?:by|from|of|in|through|on))?`,
      [],
    )
  );

  /** What follows the words says which source it is: a name of ours, words that are none, or nothing. */
  function byWords(pattern: string, kinds: readonly string[]): string[] | null {
    const begin = clause.mark();
    const read = clause.eat(words(`${pattern}(?: ${OUR}(${NAMED})${WHAT})`));
    if (read) {
      const id = sourceOf(read[1]!, clause, reading, from, kinds);
      if (id !== null) return id === '' ? [] : [id];
      clause.back(begin);
    }
    if (!clause.eat(words(pattern))) {
      clause.back(begin);
      return null;
    }
    const rest = clause.eat(/^[^\uE000-\uF3FF,]*/u)?.[0] ?? '';
    // Words that are no name, up to what is done: which of ours they mean has to be said.
    const said = rest.replace(/^\s*(?:the|our|my|a|an|your)\s+/u, '').trim();
    const { from: at, to } = clause.since(from);
    const id = reading.ask({ kind: 'source', said, from: at, to, kinds });
    return id === '' ? [] : [id];
  }
}

/** The id of the source a name stands for: "" where somebody has to say which, null where it is no source at all. */
function sourceOf(
  letter: string,
  clause: Clause,
  reading: Reading,
  from: number,
  kinds: readonly string[],
): string | null {
  const found = reading.find(letter, 'source');
  if (found) return found.id;
  const token = clause.token(letter);
  const things: readonly KnownThing[] = token.is === 'name' || token.is === 'quote' ? token.things : [];
  const several = things.filter(({ kind }) => kind === 'source').length > 1;
  if (!several && token.is === 'name' && things.every(({ kind }) => kind !== 'tab' && kind !== 'list')) return null;
  const { from: at, to } = clause.since(from);
  return reading.ask({ kind: 'source', said: token.text, from: at, to, kinds });
}
