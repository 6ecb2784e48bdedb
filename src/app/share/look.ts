import type { z } from 'zod';
import { catalogueOfShare } from '../../core/share/share-catalogue.ts';
import type { SharedThing, ShareFile } from '../../core/share/share-file.ts';
import { idsIn } from '../../core/share/swap-ids.ts';
import { thingWords } from '../../core/share/thing-words.ts';
import { atNames } from '../../core/workflow/at-names.ts';
import { atWords } from '../../core/workflow/at-words.ts';
import { type Definition, type Place, placedSteps } from '../../core/workflow/definition.ts';
import { readAloud } from '../../core/workflow/read-aloud.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { stepKinds } from '../../steps/registry.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { workflowNames } from '../workflows/workflows.ts';
import { allHere, foundHere, MAKE, NOBODY, type ShareRead, shareOf } from './share-here.ts';

/** What somebody has to say before a file is taken: which source, and who. */
export interface Asked {
  id: string;
  kind: 'source' | 'colleague';
  name: string;
  /** For a colleague, what they do in it. */
  about: string;
  options: { id: string; name: string }[];
  /** Whether it can be made on the spot. */
  canMake: boolean;
  /** What is chosen to begin with: an id, "make", or "" for later. */
  chosen: string;
}

/** A moment as the sheet shows it: when it is, and what is done in which lane. */
export interface ShownMoment {
  when: string;
  steps: { place: Place; inCase: string; icon: string; title: string; line: string }[];
}

/** Something a file brings along. */
export interface Brought {
  kind: SharedThing['kind'];
  name: string;
  /** It is here as it is in the file, and used as it is. */
  here: boolean;
  /** Another of its kind has the name: this one gets a number. */
  taken: boolean;
  /** What is in it, as far as it is read out. */
  lines: string[];
}

export interface ShareLook {
  workflows: { name: string; folder: string; taken: boolean; sentences: string[]; moments: ShownMoment[] }[];
  /** What comes along: what workflows name, or what is shared by itself. */
  brings: Brought[];
  asks: Asked[];
  /** Accounts its steps send or look up by. */
  accounts: { by: 'text' | 'email' | 'chat' | 'directory'; connected: boolean }[];
}

/** What a file holds, what of it is here, and what somebody has to say. Nothing is written. */
export async function lookAtShare(use: Use, { file: value }: z.infer<typeof ShareRead>): Promise<ShareLook> {
  const file = shareOf(value);
  const [here, catalogue, names] = [await allHere(use), await catalogueFor(use), await workflowNames(use)];
  const ids = foundHere(file, here);
  const asks = file.things.flatMap((one): Asked[] => {
    if (one.kind === 'source') {
      const options = here.flatMap((other) =>
        other.kind === 'source' &&
        (other.sourceKind === one.sourceKind || (one.made === null && other.sourceKind !== 'list'))
          ? [{ id: other.id, name: other.name }]
          : [],
      );
      const alike = here.filter((other) => other.kind === 'source' && other.sourceKind === one.sourceKind);
      // The one of its kind, or the only one there is.
      const fits = alike.length === 0 ? options : alike;
      const only = fits.length === 1 ? fits[0]!.id : NOBODY;
      const chosen = ids.get(one.id) ?? (one.made ? MAKE : only);
      return [
        {
          id: one.id,
          kind: 'source',
          name: one.name,
          about: one.sourceKind,
          options,
          canMake: one.made !== null,
          chosen,
        },
      ];
    }
    if (one.kind !== 'colleague') return [];
    return [
      {
        id: one.id,
        kind: 'colleague',
        name: one.name,
        about: doesIn(file, one.id),
        options: catalogue.colleagues.map(({ id, name }) => ({ id, name })),
        canMake: false,
        // Whoever is alone here does it.
        chosen: catalogue.colleagues.length === 1 ? catalogue.colleagues[0]!.id : NOBODY,
      },
    ];
  });
  const readable = catalogueOfShare(file, catalogue);
  return {
    workflows: file.workflows.map(({ name, folder, sheet }) => ({
      ...{ name, folder, taken: names.has(name) },
      sentences: readAloud(sheet, stepKinds, readable).flatMap((part) => part.sentences),
      moments: shownMoments(sheet, readable),
    })),
    brings: file.things.flatMap((one): Brought[] => {
      if (one.kind === 'colleague' || one.kind === 'gone' || (one.kind === 'source' && file.workflows.length > 0))
        return [];
      return [
        {
          kind: one.kind,
          name: one.name,
          here: ids.has(one.id),
          taken: here.some((other) => other.kind === one.kind && other.name === one.name),
          lines: thingWords(one, readable),
        },
      ];
    }),
    asks,
    accounts: accountsOf(file.workflows.map(({ sheet }) => sheet)).map((by) => ({
      by,
      connected: catalogue[by] !== null,
    })),
  };
}

/** A sheet's moments as they are shown in small. */
export function shownMoments(sheet: Definition, catalogue: Catalogue): ShownMoment[] {
  const names = atNames(sheet, stepKinds, catalogue);
  const placed = placedSteps(sheet);
  return sheet.moments.map((moment) => ({
    when: atWords(moment.at, names),
    steps: placed
      .filter((one) => one.moment === moment)
      .map(({ step, place, caseId }) => {
        const kind = stepKinds.get(step.kind)!;
        const inCase = moment.cases.find((each) => each.id === caseId)?.name ?? '';
        return { place, inCase, icon: kind.icon, ...kind.card(kind.settings.parse(step.settings), catalogue) };
      }),
  }));
}

const ACCOUNTS: Record<string, ShareLook['accounts'][number]['by']> = {
  text: 'text',
  email: 'email',
  mailing: 'email',
  chat: 'chat',
  'chat-template': 'chat',
  company: 'directory',
};

function accountsOf(sheets: readonly Definition[]): ShareLook['accounts'][number]['by'][] {
  const steps = sheets.flatMap((sheet) => placedSteps(sheet).map(({ step }) => step));
  const said = steps.flatMap(({ kind, settings }): ShareLook['accounts'][number]['by'][] => {
    const by = ACCOUNTS[kind] ?? (kind === 'ask' || kind === 'tell' ? settings.by : null);
    return by === 'text' || by === 'email' || by === 'chat' || by === 'directory' ? [by] : [];
  });
  return [...new Set(said)];
}

/** What somebody does in the workflows of a file, in the words of the menu of steps. */
function doesIn(file: ShareFile, id: string): string {
  const kinds = file.workflows.flatMap(({ sheet }) =>
    placedSteps(sheet).flatMap(({ step }) =>
      idsIn(step.settings).includes(id) ? [stepKinds.get(step.kind)!.label] : [],
    ),
  );
  const told = file.workflows.some(({ sheet }) => sheet.rules.tell?.colleague === id) ? ['Told of failures'] : [];
  return [...new Set([...kinds, ...told])].join(', ');
}
