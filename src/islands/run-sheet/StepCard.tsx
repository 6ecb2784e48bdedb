import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import TriangleAlert from 'lucide-react/icons/triangle-alert';
import { CardLine } from '../../components/CardLine.tsx';
import { KindIcon } from '../../components/icons.tsx';
import { isBlank } from '../../core/condition/condition.ts';
import { conditionWords } from '../../core/condition/words.ts';
import { momentWords } from '../../core/words/instant.ts';
import type { Place, Step } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';
import { type Catalogue, catalogueNames } from '../../core/workflow/step-kind.ts';
import { stepKinds } from '../../steps/registry.ts';
import type { Rehearsed } from '../../steps/rehearse.ts';

interface Props {
  step: Step;
  place: Place;
  selected: boolean;
  findings: Finding[];
  catalogue: Catalogue;
  labels: ReadonlyMap<string, string>;
  /** What it would do, while a rehearsal is shown. */
  rehearsed: (Rehearsed & { zone: string }) | null;
  locale: string;
  onSelect: () => void;
}

const EDGE: Record<Place, string> = {
  first: '',
  lead: 'border-t-[3px] border-t-brass-line',
  record: 'border-t-[3px] border-t-pine-line',
  team: 'border-t-[3px] border-t-mulberry-line',
};

/** One step on the sheet. */
export function StepCard({ step, place, selected, findings, catalogue, labels, rehearsed, locale, onSelect }: Props) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: step.id,
    data: { kind: step.kind },
  });
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  const guard =
    step.onlyIf && !isBlank(step.onlyIf) ? conditionWords(step.onlyIf, catalogueNames(catalogue, labels)) : null;
  const card = kind && settings?.success ? kind.card(settings.data, catalogue) : { title: step.kind, line: '' };
  const style = {
    transform: CSS.Translate.toString(transform),
    transition,
    opacity: isDragging ? 0.5 : step.on ? 1 : 0.55,
  };
  const shape =
    place === 'first'
      ? 'inline-flex min-h-7 items-center gap-1.5 rounded-full px-2.5 py-0.5 text-note'
      : `block rounded-box px-2.5 py-2 ${EDGE[place]}`;
  return (
    <button
      ref={setNodeRef}
      style={style}
      {...attributes}
      {...listeners}
      type="button"
      onClick={onSelect}
      data-step={step.id}
      aria-pressed={selected}
      aria-roledescription="step, can be moved"
      className={`w-full cursor-pointer border border-base-300 bg-base-100 text-left ${place === 'first' ? '!w-auto' : ''} ${shape} ${selected ? 'outline-2 outline-offset-1 outline-primary' : ''}`}
    >
      <span className={`flex items-center gap-1.5 ${place === 'first' ? '' : 'font-semibold'}`}>
        <KindIcon name={kind?.icon ?? 'sparkles'} />
        <span className="min-w-0 truncate">{card.title}</span>
        {!step.on && <span className="pill ml-auto">Off</span>}
      </span>
      {card.line !== '' && (
        <span className="mt-1 line-clamp-2 text-xs leading-[1.65] text-ink-2">
          <CardLine line={card.line} labels={labels} />
        </span>
      )}
      {guard && <span className="mt-1 block text-xs text-ink-2">only when {guard}</span>}
      {rehearsed && <RehearsedWords rehearsed={rehearsed} locale={locale} />}
      {findings.map((finding) => (
        <span
          key={finding.code + finding.text}
          className={`pill mt-1.5 mr-1 !whitespace-normal ${finding.weight === 'must' ? 'bad' : 'warn'}`}
        >
          <TriangleAlert className="size-3.5 shrink-0" aria-hidden="true" />
          {finding.text.replace(/^[^:]{3,24}: /, '')}
        </span>
      ))}
    </button>
  );
}

function RehearsedWords({ rehearsed, locale }: { rehearsed: Rehearsed & { zone: string }; locale: string }) {
  const { plan, heldUntil, atOnce, taken, zone } = rehearsed;
  const words =
    plan.does === 'change'
      ? plan.changes
          .filter((change) => change.after !== change.before)
          .map((change) => `“${change.before}” to “${change.after}”`)
          .join(', ') || 'Nothing to tidy'
      : plan.does === 'send'
        ? `Would go to ${plan.message.to}: ${plan.message.channel === 'email' ? plan.message.subject : plan.message.text}`
        : 'words' in plan
          ? plan.words
          : plan.does === 'end'
            ? plan.why.text
            : `Would do nothing. ${plan.why.text}`;
  const good = taken && (plan.does === 'send' || plan.does === 'change' || 'words' in plan);
  return (
    <span
      className={`mt-1.5 block rounded-md px-2 py-1 text-xs [overflow-wrap:anywhere] ${good ? 'bg-good-soft' : 'bg-warn-soft'}`}
      data-testid="rehearsed"
    >
      {taken ? words : 'Not reached by this lead'}
      {taken && plan.does === 'send' && plan.note && <span className="mt-0.5 block text-ink-2">{plan.note}</span>}
      {taken && atOnce && (
        <span className="mt-0.5 block text-ink-2">Goes at once, whatever the hour: they have just come in.</span>
      )}
      {taken && heldUntil !== null && (
        <span className="mt-0.5 block text-warning">Held until {momentWords(heldUntil, zone, locale)}</span>
      )}
    </span>
  );
}
