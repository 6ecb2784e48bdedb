import { z } from 'zod';
import { type WorkingTime, worksOn } from '../../core/people/working-time.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { atWallClock, CLOCK_TIME, wallClock } from '../../core/time/zone.ts';
import { timeOfDay } from '../../core/words/time-of-day.ts';
import { readingScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { whenDue } from '../../core/workflow/when-due.ts';
import { colleagueName, colleagueProblem, theColleague } from '../the-colleague.ts';

const Settings = z.object({
  colleague: z.string().max(60),
  title: z.string().max(300),
  time: z.string().regex(CLOCK_TIME, 'Write the time as 09:00'),
  day: z.enum(['soonest', 'next_day']),
  workingDays: z.boolean(),
  minutes: z.number().int().min(5).max(480),
});
export type HoldTimeSettings = z.infer<typeof Settings>;
export type HoldTimeDone = { colleagueId: string; title: string; startsAt: number; minutes: number };

const dayWords = ({ day, workingDays }: HoldTimeSettings) =>
  `${day === 'next_day' ? 'next' : 'soonest'} ${workingDays ? 'working day' : 'day'}`;

/** The same time of day on the first day from then on that they work, and nobody has off where that is asked. */
function onTheirDay(
  working: WorkingTime | null | undefined,
  at: number,
  { time, workingDays }: HoldTimeSettings,
  { timeZone, holidays }: { timeZone: string; holidays: readonly string[] },
): number {
  const first = wallClock(at, timeZone).toPlainDate();
  for (let n = 0; n < 366; n++) {
    const day = first.add({ days: n });
    const off = workingDays && (day.dayOfWeek > 5 || holidays.includes(day.toString()));
    if (!off && worksOn(working, day.toString())) return n === 0 ? at : atWallClock(day, time, timeZone);
  }
  return at;
}

/** Holds time in a colleague's calendar. */
export const holdTime: StepKind<HoldTimeSettings> = {
  kind: 'hold-time',
  label: 'Hold time',
  icon: 'calendar-plus',
  places: ['team'],
  settings: Settings,
  blank: () => ({
    colleague: '',
    title: 'Call {{ lead.full_name }}',
    time: '08:00',
    day: 'next_day',
    workingDays: true,
    minutes: 15,
  }),
  card: (settings, catalogue) => ({
    title: `Hold ${settings.minutes} minutes`,
    line: `${timeOfDay(settings.time, catalogue.locale)}, ${dayWords(settings)}`,
  }),
  aloud: (settings, catalogue) =>
    `hold ${settings.minutes} minutes for ${colleagueName(settings.colleague, catalogue)} at ${timeOfDay(settings.time, catalogue.locale)}, ${dayWords(settings)}`,
  check: ({ colleague }, { catalogue }) => {
    const gone = colleagueProblem(colleague, catalogue);
    return gone ? [{ weight: 'must', code: 'empty', text: `Hold time: ${gone}`, field: 'colleague' }] : [];
  },
  templates: ({ title }) => [{ field: 'title', source: title }],
  plan: (settings, { context, catalogue, now }) => {
    const who = theColleague(settings.colleague, context, catalogue);
    if (!who) return { does: 'ask', why: { code: 'no_address', text: 'There is nobody whose time could be held' } };
    const rendered = renderTemplate(settings.title, readingScope(context, now));
    if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
    const { country, timeZone, holidays } = context.business;
    const due = whenDue(
      {
        kind: 'time_of_day',
        time: settings.time,
        day: settings.day,
        workingDays: settings.workingDays,
        whose: 'business',
      },
      { previous: now, now, leadZone: null, businessZone: timeZone, country, holidays, field: () => null },
    );
    const startsAt = onTheirDay(who.working, 'at' in due ? due.at : now, settings, { timeZone, holidays });
    const what: HoldTimeDone = {
      colleagueId: who.id,
      title: rendered.text.trim().slice(0, 300),
      startsAt,
      minutes: settings.minutes,
    };
    return {
      does: 'record',
      words: `${settings.minutes} minutes of ${who.name}, ${timeOfDay(settings.time, catalogue.locale)} ${dayWords(settings)}`,
      what,
    };
  },
};
