import { isBlank } from '../condition/condition.ts';
import { conditionWords } from '../condition/words.ts';
import { readAs } from '../read-as.ts';
import { atNames } from './at-names.ts';
import { type AtNames, atWords } from './at-words.ts';
import { CHANNEL_WORDS, CHANNELS } from './channel.ts';
import { type Definition, LANES, type Lane, type Lanes, type Moment, type Step } from './definition.ts';
import type { Ends, Rules } from './rules.ts';
import { type Catalogue, catalogueNames, type StepKind } from './step-kind.ts';

/** One part of a sheet as it is read: the moment's id and its sentences. */
export interface ReadAloud {
  momentId: string | null;
  sentences: string[];
}

const SIDES: Record<Lane, string> = { lead: 'we ', record: 'on record we ', team: 'for the team we ' };
const INSTEAD: Record<string, string> = { text: 'by email if it is refused', email: 'by text if it is refused' };
const ENDS_WORDS: Record<Ends, string> = {
  reply: 'they reply',
  stop: 'they ask for no more',
  booked: 'they book',
  bought: 'they buy',
};

/** With its first letter large. */
export const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);
const list = (words: string[], last = 'and') =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1)}`;

/** The whole sheet as plain sentences, from the definition alone. `labels` name the source's own fields. */
export function readAloud(
  definition: Definition,
  kinds: ReadonlyMap<string, StepKind>,
  catalogue: Catalogue,
  labels?: ReadonlyMap<string, string>,
): ReadAloud[] {
  const names = catalogueNames(catalogue, labels);
  const named = atNames(definition, kinds, catalogue, labels);

  const aloud = (step: Step): string | null => {
    if (!step.on) return null;
    const kind = kinds.get(step.kind);
    const settings = kind && readAs(kind.settings, step.settings);
    if (!kind || !settings?.success) return null;
    const words = kind.aloud(settings.data, catalogue);
    const more = [
      ...(step.onlyIf && !isBlank(step.onlyIf) ? [`only when ${conditionWords(step.onlyIf, names)}`] : []),
      ...(step.trial ? ['in two versions'] : []),
      ...(step.ifFails.after === 'other_channel' && INSTEAD[step.kind] ? [INSTEAD[step.kind]!] : []),
    ];
    return more.length > 0 ? `${words} (${more.join('; ')})` : words;
  };
  /** What happens in the lanes, as one clause; null when nothing does. */
  const lanesAloud = (lanes: Lanes): string | null => {
    const clauses = LANES.flatMap((lane) => {
      const words = lanes[lane].flatMap((step) => aloud(step) ?? []);
      return words.length === 0 ? [] : [`${SIDES[lane]}${list(words)}`];
    });
    return clauses.length === 0 ? null : clauses.join('; ');
  };
  const momentAloud = (moment: Moment): string[] => {
    const only = moment.onlyIf && !isBlank(moment.onlyIf) ? `, only if ${conditionWords(moment.onlyIf, names)}` : '';
    const when = `${atWords(moment.at, named)}${only}`;
    const first = moment.first.flatMap((step) => aloud(step) ?? []);
    const said = first.length > 0 ? [`${when}, first we ${list(first)}.`] : [];
    const rest = lanesAloud(moment.lanes);
    if (moment.cases.length === 0) {
      if (said.length === 0) return [`${when}, ${rest ?? 'nothing happens'}.`];
      return rest ? [...said, `Then ${rest}.`] : said;
    }
    if (said.length === 0) said.push(`${when}, one of these.`);
    for (const eachCase of moment.cases)
      said.push(`If ${conditionWords(eachCase.when, names)}, ${lanesAloud(eachCase.lanes) ?? 'nothing happens'}.`);
    return [...said, `Otherwise ${rest ?? 'nothing happens'}.`];
  };

  const listened = definition.sources.map((id) => named.source(id));
  return [
    {
      momentId: null,
      sentences: [
        listened.length > 0 ? `Leads come in by ${list(listened)}.` : 'No source is chosen yet.',
        ...rulesAloud(definition.rules, named),
      ],
    },
    ...definition.moments.map((moment) => ({ momentId: moment.id, sentences: momentAloud(moment) })),
  ];
}

/** The standing rules as sentences. */
export function rulesAloud(rules: Rules, names: Pick<AtNames, 'tag' | 'clock'>): string[] {
  const same = {
    by_source:
      'Each order, booking and row counts by itself; somebody known who comes in again by a form is updated and not written to again.',
    nothing: 'Somebody known who comes in again starts nothing.',
    update_only: 'Somebody known who comes in again is updated and not written to again.',
    run_again_after: `Somebody known goes through again once ${rules.againAfterDays} days have passed.`,
    run_again: 'Somebody known who comes in again goes through again.',
  }[rules.samePerson];
  const hours = CHANNELS.flatMap((channel) => {
    const open = rules.hours[channel];
    return open
      ? [
          `${capital(CHANNEL_WORDS[channel].many)} go out from ${names.clock(open.from)} to ${names.clock(open.to)}, by the lead’s clock.`,
        ]
      : [];
  });
  const some = CHANNELS.some((channel) => rules.hours[channel]);
  if (some && rules.answerAtOnce)
    hours.push(
      'Whoever has just come in by their own doing is answered at once on arrival, whatever the hour; news and offers wait.',
    );
  if (some && rules.holdsLane) hours.push('What stands below a message that is held waits with it.');
  const ending = [
    ...rules.endsWhen.map((one) => ENDS_WORDS[one]),
    ...rules.endsTags.map((id) => `they get the tag ${names.tag(id)}`),
  ];
  const ends = ending.length > 0 ? [`It ends early when ${list(ending, 'or')}.`] : [];
  return [same, ...hours, ...ends];
}
