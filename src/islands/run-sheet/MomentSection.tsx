import Bell from 'lucide-react/icons/bell';
import CalendarClock from 'lucide-react/icons/calendar-clock';
import Ear from 'lucide-react/icons/ear';
import Hourglass from 'lucide-react/icons/hourglass';
import Plus from 'lucide-react/icons/plus';
import Split from 'lucide-react/icons/split';
import Sunrise from 'lucide-react/icons/sunrise';
import TriangleAlert from 'lucide-react/icons/triangle-alert';
import type { ReactNode } from 'react';
import { Tool } from '../../components/Tool.tsx';
import { isBlank } from '../../core/condition/condition.ts';
import { comparedWords, conditionWords, type Names } from '../../core/condition/words.ts';
import { momentWords } from '../../core/words/instant.ts';
import type { At } from '../../core/workflow/at.ts';
import { type Case, LANES, lanesOf, type Moment, type Place, type Step } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';
import type { RehearsedMoment } from '../../steps/rehearse.ts';
import { LaneColumn } from './LaneColumn.tsx';

const KNOBS: Record<At['kind'], typeof Bell> = {
  on_arrival: Bell,
  later: Hourglass,
  time_of_day: Sunrise,
  on_date: CalendarClock,
  event: Ear,
};

interface Props {
  moment: Moment;
  first: boolean;
  selected: boolean;
  /** The case in sight; null for "otherwise", or for a moment without cases. */
  caseId: string | null;
  /** When it is, in words. */
  title: string;
  names: Names;
  locale: string;
  findings: Finding[];
  rehearsed: RehearsedMoment | null;
  /** What stands at the right end of the heading. */
  aside: ReactNode;
  card: (place: Place) => (step: Step) => ReactNode;
  onSelect: () => void;
  onCase: (caseId: string | null) => void;
  onAdd: (place: Place, kind: string) => void;
  onAddCase: () => void;
}

/** One moment on the rope: when, under which condition, First, its cases, and the three lanes. */
export function MomentSection(props: Props) {
  const { moment, title, first, selected, caseId, names, findings, rehearsed, aside } = props;
  const Knob = KNOBS[moment.at.kind];
  const lanes = lanesOf(moment, caseId);
  return (
    <section className="relative mb-4" aria-label={title} data-moment={moment.id}>
      <span className="knob absolute top-0.5 -left-12">
        <Knob className="size-4" aria-hidden="true" />
      </span>
      <div className="mb-1.5 flex min-h-8 flex-wrap items-center gap-x-2 gap-y-1">
        <h2 className="text-part">
          <button
            type="button"
            className={`rounded-md px-1 text-left hover:bg-brass-soft ${selected ? 'outline-2 outline-offset-1 outline-primary' : ''}`}
            aria-pressed={selected}
            title="Choose this moment: its time, its condition, its cases"
            onClick={props.onSelect}
          >
            {title}
          </button>
        </h2>
        {first && isBlank(moment.onlyIf) && <span className="text-ink-2">every new lead</span>}
        {!isBlank(moment.onlyIf) && (
          <span className="text-note text-ink-2">only if {conditionWords(moment.onlyIf!, names)}</span>
        )}
        {aside}
      </div>
      {findings.map((finding) => (
        <span
          key={finding.code + finding.text}
          className={`pill mr-1 mb-1.5 !whitespace-normal ${finding.weight === 'must' ? 'bad' : 'warn'}`}
        >
          <TriangleAlert className="size-3.5 shrink-0" aria-hidden="true" />
          {finding.text}
        </span>
      ))}
      {rehearsed && <RehearsedHead rehearsed={rehearsed} moment={moment} names={names} locale={props.locale} />}
      <LaneColumn
        spot={`${moment.id}::`}
        place="first"
        explained={first}
        steps={moment.first}
        card={props.card('first')}
        onAdd={(kind) => props.onAdd('first', kind)}
      />
      {moment.cases.length > 0 && <CaseTabs {...props} />}
      <div
        className={`grid grid-cols-1 gap-2 sm:grid-cols-3 ${rehearsed && rehearsed.leftOut === null && rehearsed.caseId !== caseId ? 'opacity-50' : ''}`}
      >
        {LANES.map((lane) => (
          <LaneColumn
            key={`${caseId ?? ''}-${lane}`}
            spot={`${moment.id}:${caseId ?? ''}:`}
            place={lane}
            steps={lanes[lane]}
            card={props.card(lane)}
            onAdd={(kind) => props.onAdd(lane, kind)}
          />
        ))}
      </div>
    </section>
  );
}

const caseName = (one: Case, names: Names) =>
  one.name || (isBlank(one.when) ? 'New case' : conditionWords(one.when, names));

/** The alternatives of a moment; the first that fits is taken. */
function CaseTabs({ moment, caseId, names, rehearsed, onCase, onAddCase }: Props) {
  const tabs = [
    ...moment.cases.map((eachCase) => ({ id: eachCase.id as string | null, name: caseName(eachCase, names) })),
    { id: null, name: 'Otherwise' },
  ];
  return (
    <div className="mb-1.5 flex flex-wrap items-center gap-1" data-testid="cases">
      <Split className="size-4 text-ink-2" aria-hidden="true" />
      <span className="sr-only">Cases; the first that fits is taken</span>
      {tabs.map(({ id, name }) => (
        <button
          key={id ?? 'otherwise'}
          type="button"
          aria-pressed={id === caseId}
          className={`min-h-7 max-w-72 truncate rounded-md border px-2 text-note ${id === caseId ? 'border-brass-line bg-brass-soft font-semibold' : 'border-base-300 bg-base-100 text-ink-2 hover:bg-base-200'}`}
          title={name}
          onClick={() => onCase(id)}
        >
          {name}
          {rehearsed && rehearsed.leftOut === null && rehearsed.caseId === id && (
            <span className="ml-1.5 text-success">this one</span>
          )}
        </button>
      ))}
      <Tool label="Add a case" onClick={onAddCase}>
        <Plus className="size-4" />
      </Tool>
    </div>
  );
}

/** In a rehearsal: when the moment would begin by the lead's clock, or why not, with the values compared. */
function RehearsedHead({
  rehearsed,
  moment,
  names,
  locale,
}: {
  rehearsed: RehearsedMoment;
  moment: Moment;
  names: Names;
  locale: string;
}) {
  const { at, zone, leftOut, compared } = rehearsed;
  return (
    <div
      className={`mb-2 rounded-md px-2 py-1 text-xs ${leftOut === null ? 'bg-good-soft' : 'bg-warn-soft'}`}
      data-testid="rehearsed-moment"
    >
      {leftOut === null && at !== null
        ? moment.at.kind === 'on_arrival'
          ? 'At once'
          : momentWords(at, zone, locale)
        : `Left out. ${leftOut}`}
      {compared.length > 0 && (
        <ul className="mt-0.5">
          {compared.map((compared, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: questions have no name of their own
            <li key={i}>
              <span className={compared.holds ? 'text-success' : 'text-warning'}>
                {compared.holds ? 'true' : 'false'}
              </span>{' '}
              {comparedWords(compared, names)}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
