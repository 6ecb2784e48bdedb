import { isBlank } from '../condition/condition.ts';
import { conditionWords } from '../condition/words.ts';
import { atWords } from './at-words.ts';
import { type Definition, LANES, type Lanes, lanesOf, type Moment, type Step } from './definition.ts';
import type { Ends, Rules } from './rules.ts';
import { deskNames, type SendingDesk, type StepKind } from './step-kind.ts';

/** One part of a sheet as it is read: the moment's id and its sentences. */
export interface ReadAloud {
  momentId: string | null;
  sentences: string[];
}

const SIDES: Record<string, string> = { lead: '', record: 'On record we ', team: 'The team: we ' };
const ENDS_WORDS: Record<Ends, string> = {
  reply: 'they reply',
  stop: 'they ask for no more',
  booked: 'they book',
  bought: 'they buy',
};

const list = (words: string[], last = 'and') =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1)}`;
const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** The whole sheet as plain sentences, from the definition alone. `labels` name the source's own fields. */
export function readAloud(
  definition: Definition,
  kinds: ReadonlyMap<string, StepKind>,
  desk: SendingDesk,
  labels?: ReadonlyMap<string, string>,
): ReadAloud[] {
  const names = deskNames(desk, labels);
  const atNames = {
    field: names.field,
    tag: names.tag,
    source: (id: string) => desk.sources.find((one) => one.id === id)?.name ?? 'a source that is gone',
  };

  const aloud = (step: Step): string | null => {
    if (!step.on) return null;
    const kind = kinds.get(step.kind);
    const settings = kind?.settings.safeParse(step.settings);
    if (!kind || !settings?.success) return null;
    const words = kind.aloud(settings.data, desk);
    const instead =
      step.ifFails.after === 'other_channel' && kind.instead ? ', or by the other way if it is refused' : '';
    return step.onlyIf && !isBlank(step.onlyIf)
      ? `${words} (only when ${conditionWords(step.onlyIf, names)})${instead}`
      : `${words}${instead}`;
  };
  const lanesAloud = (lanes: Lanes): string[] =>
    LANES.flatMap((lane) => {
      const words = lanes[lane].flatMap((step) => aloud(step) ?? []);
      if (words.length === 0) return [];
      return lane === 'lead' ? [`we ${list(words)}`] : [`${SIDES[lane]}${list(words)}`];
    });
  const momentAloud = (moment: Moment): string[] => {
    const when = atWords(moment.at, atNames);
    const only = moment.onlyIf && !isBlank(moment.onlyIf) ? `, only if ${conditionWords(moment.onlyIf, names)}` : '';
    const first = moment.first.flatMap((step) => aloud(step) ?? []);
    const head = first.length > 0 ? `${when}${only}, first we ${list(first)}.` : '';
    const opening = head ? 'Then ' : `${when}${only}, `;
    const said: string[] = head ? [head] : [];
    if (moment.cases.length === 0) {
      const lanes = lanesAloud(moment.lanes);
      if (lanes.length === 0 && !head) return [`${when}${only}, nothing happens.`];
      lanes.forEach((words, i) => {
        said.push(i === 0 ? `${opening}${words.charAt(0).toLowerCase()}${words.slice(1)}.` : `${capital(words)}.`);
      });
      return said;
    }
    if (!head) said.push(`${when}${only}, one of these:`);
    for (const one of moment.cases) {
      const lanes = lanesAloud(lanesOf(moment, one.id));
      said.push(`If ${conditionWords(one.when, names)}: ${lanes.length > 0 ? lanes.join('. ') : 'nothing happens'}.`);
    }
    const rest = lanesAloud(moment.lanes);
    said.push(`Otherwise ${rest.length > 0 ? rest.join('. ') : 'nothing happens'}.`);
    return said;
  };

  const listened = definition.sources.map((id) => atNames.source(id));
  return [
    {
      momentId: null,
      sentences: [
        listened.length > 0 ? `Leads come in by ${list(listened)}.` : 'No source is chosen yet.',
        ...rulesAloud(definition.rules),
      ],
    },
    ...definition.moments.map((moment) => ({ momentId: moment.id, sentences: momentAloud(moment) })),
  ];
}

/** The standing rules as sentences. */
export function rulesAloud(rules: Rules): string[] {
  const same = {
    nothing: 'Somebody known who comes in again starts nothing.',
    update_only: 'Somebody known who comes in again is updated and not written to again.',
    run_again_after: `Somebody known goes through again once ${rules.againAfterDays} days have passed.`,
    run_again: 'Somebody known who comes in again goes through again.',
  }[rules.samePerson];
  const hours = (['text', 'email'] as const).flatMap((channel) => {
    const open = rules.hours[channel];
    return open
      ? [`${channel === 'text' ? 'Texts' : 'Emails'} go out from ${open.from} to ${open.to}, by the lead’s clock.`]
      : [];
  });
  const ends =
    rules.endsWhen.length > 0
      ? [
          `It ends early when ${list(
            rules.endsWhen.map((one) => ENDS_WORDS[one]),
            'or',
          )}.`,
        ]
      : [];
  return [same, ...hours, ...ends];
}
