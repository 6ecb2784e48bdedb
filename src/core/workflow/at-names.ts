import { readAs } from '../read-as.ts';
import { templateWords } from '../template/template.ts';
import { timeOfDay } from '../words/time-of-day.ts';
import type { AtNames } from './at-words.ts';
import { type Definition, placedSteps } from './definition.ts';
import { type Catalogue, catalogueNames, type StepKind } from './step-kind.ts';

/** Names of what the moments of a sheet refer to. `labels` are those of the source's own fields, by key. */
export function atNames(
  definition: Definition,
  kinds: ReadonlyMap<string, StepKind>,
  catalogue: Catalogue,
  labels?: ReadonlyMap<string, string>,
): AtNames {
  const names = catalogueNames(catalogue, labels);
  const named = (list: readonly { id: string; name: string }[], id: string, gone: string) =>
    list.find((one) => one.id === id)?.name ?? gone;
  return {
    clock: (time) => timeOfDay(time, catalogue.locale),
    field: names.field,
    tag: names.tag,
    list: names.list,
    source: (id) => named(catalogue.sources, id, 'a source that is gone'),
    stage: (id) => named(catalogue.stages, id, 'a stage that is gone'),
    step: (id) => {
      const step = placedSteps(definition).find((placedStep) => placedStep.step.id === id)?.step;
      const kind = step && kinds.get(step.kind);
      const settings = kind && readAs(kind.settings, step!.settings);
      if (!kind || !settings?.success) return 'a step that is gone';
      const { title, line } = kind.card(settings.data, catalogue);
      const words = templateWords(line || title, labels);
      return `“${words.length > 50 ? `${words.slice(0, 49)}…` : words}”`;
    },
  };
}
