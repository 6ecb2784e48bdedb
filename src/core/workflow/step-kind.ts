import type { z } from 'zod';
import type { Condition } from '../condition/condition.ts';
import type { Names } from '../condition/words.ts';
import type { ChatForm } from '../form/chat-form.ts';
import type { ChatTemplateContent } from '../message/chat-template.ts';
import type { WorkingTime } from '../people/working-time.ts';
import { readReference, referenceLabel } from '../template/field-reference.ts';
import type { Place } from './definition.ts';
import type { Finding } from './finding.ts';
import type { Plan } from './plan.ts';
import type { RunContext } from './run-context.ts';

/** What steps may refer to, by id: who can send and be told, what stands on record. */
export interface Catalogue {
  text: { connectionId: string; from: string; senders: string[] } | null;
  /** Countries that may be texted (ISO 3166-1 alpha-2); left out, all may. */
  textCountries?: readonly string[];
  email: { connectionId: string; fromName: string; fromAddress: string } | null;
  chat: { connectionId: string; from: string } | null;
  /** Services the business has described itself: what can be put on record there, and asked. */
  services?: readonly CatalogueService[];
  /** The company directory; null when none is connected. */
  directory: { name: string } | null;
  /** `phone` is what they gave for their own tests; empty when they gave none. */
  colleagues: { id: string; name: string; email: string; phone: string; working?: WorkingTime | null }[];
  /** How dates and hours are written, BCP 47. */
  locale: string;
  /** Tabs of sheets with their columns. */
  tabs: { id: string; name: string; columns: { id: string; name: string }[] }[];
  tags: { id: string; name: string }[];
  /** What the business counts in its results by names of its own. */
  outcomes?: readonly string[];
  /** Stages of pipelines, as "Stage" or "Pipeline: Stage". */
  stages: { id: string; name: string }[];
  sources: { id: string; name: string }[];
  /** Lists people are on, to be written to again and again. */
  lists: CatalogueList[];
  /** People chosen by a condition. */
  segments: { id: string; name: string }[];
  /** Chat messages the network approves beforehand; null while no version is. */
  chatTemplates: { id: string; name: string; approved: { remoteId: string; content: ChatTemplateContent } | null }[];
  /** Forms that are filled in inside the chat; null while none of its versions is at the network. */
  chatForms: { id: string; name: string; live: { versionId: string; remoteId: string; content: ChatForm } | null }[];
  /** Emails laid out beforehand. */
  emailTemplates: { id: string; name: string; html: string; text: string }[];
  /** Where followed links and opened emails are counted; null when the business does not want it. */
  counting: { links: string | null; opens: boolean };
}

/** A described service as steps see it. */
export interface CatalogueService {
  id: string;
  name: string;
  records: { key: string; label: string; takes: { key: string; label: string; needed: boolean }[] }[];
  lookUps: {
    key: string;
    label: string;
    takes: { key: string; label: string }[];
    gives: { key: string; label: string }[];
  }[];
}

/** A list as steps see it. */
export interface CatalogueList {
  id: string;
  name: string;
  optIn: 'single' | 'double';
  /** How many were asked to confirm, a day ago or longer, and how many of them did. */
  asked: number;
  confirmed: number;
  fields: { key: string; label: string }[];
  /** Why its sequences would not start, in words; empty when they would. */
  stopped: string;
}

/** Names of the fields lists have of their own, by "list.field", as conditions about whole leads refer to them. */
export const memberLabels = (lists: readonly CatalogueList[]): Map<string, string> =>
  new Map(
    lists.flatMap((list) =>
      list.fields.map((field): [string, string] => [`${list.id}.${field.key}`, `${list.name}: ${field.label}`]),
    ),
  );

/** How conditions name what they refer to. `labels` are those of the source's own fields, by key. */
export const catalogueNames = (catalogue: Catalogue, labels?: ReadonlyMap<string, string>): Names => ({
  field: (reference) => {
    const read = readReference(reference);
    return read ? referenceLabel(read, labels) : reference;
  },
  tag: (id) => catalogue.tags.find((tag) => tag.id === id)?.name ?? 'that is gone',
  list: (id) => catalogue.lists.find((list) => list.id === id)?.name ?? 'a list that is gone',
  column: (id) => {
    const [tabId, columnId] = id.split('/');
    const tab = catalogue.tabs.find((tab) => tab.id === tabId);
    const column = tab?.columns.find((column) => column.id === columnId);
    return tab && column ? `${column.name} of ${tab.name}` : 'a column that is gone';
  },
});

export interface PlanInput {
  context: RunContext;
  catalogue: Catalogue;
  /** Whose turn it is, when the step goes through several colleagues; null while that is not known. */
  turn: string | null;
  /** Milliseconds. */
  now: number;
}

export interface CheckInput {
  catalogue: Catalogue;
  /** The sample lead's context; null when no sample has been caught yet. */
  sample: RunContext | null;
  /** Whether any source of this workflow asks for consent. */
  consentAsked: boolean;
  /** The step is done when somebody comes in, before they can have done anything else. */
  onArrival?: boolean;
}

/** A field a step gives to those after it. */
export interface Given {
  group?: 'found' | 'answers' | 'own';
  key: string;
  label: string;
}

/** The pure part of a kind of step. */
export interface StepKind<Settings = unknown> {
  kind: string;
  /** In the menu: "Text the lead". */
  label: string;
  icon: string;
  places: Place[];
  settings: z.ZodType<Settings>;
  blank(): Settings;
  /** The card's heading and its line below, from the settings. */
  card(settings: Settings, catalogue: Catalogue): { title: string; line: string };
  /** What it does, as part of a sentence: "text them". */
  aloud(settings: Settings, catalogue: Catalogue): string;
  /** What would go wrong, without the template checks that every kind shares. */
  check(settings: Settings, input: CheckInput): Omit<Finding, 'place'>[];
  /** Names of the settings that hold templates. */
  templates(settings: Settings): { field: string; source: string }[];
  plan(settings: Settings, input: PlanInput): Plan;
  /** The same message by another channel, when this one is refused; null when there is no other. */
  instead?(settings: Settings, input: PlanInput): Plan | null;
  /** What is done when the other side says that its reply window is shut: something else, or nothing. */
  shut?(settings: Settings, input: PlanInput): Plan;
  /** Fields that steps after it can use; in the group of what steps found where none is said. */
  gives?(settings: Settings, catalogue: Catalogue): Given[];
  /** Colleagues it goes through in turn, one per lead; null when nobody's turn is needed for this lead. */
  turn?(settings: Settings, input: PlanInput): readonly string[] | null;
  /** The settings as they may be given away: without secrets, and without addresses of people. All of them where it is left out. */
  shared?(settings: Settings): Settings;
  /** It can be done once for each item of a list. */
  repeats?: true;
  /** A condition its plan goes by, so that what only the database knows can be asked first. */
  asks?(settings: Settings): Condition;
}
