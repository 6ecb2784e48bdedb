import { useState } from 'react';
import type { Definition } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';
import { findStep } from './edits.ts';

/** What of the sheet is chosen and in sight: a step or a moment, and of each moment with cases one case. */
export function useChosen(draft: Definition, atFirst: string | null) {
  const [step, setStep] = useState<string | null>(atFirst ?? draft.moments[0]?.lanes.lead[0]?.id ?? null);
  const [moment, setMoment] = useState<string | null>(null);
  const [reading, setReading] = useState(false);
  const [times, setTimes] = useState(0);
  /** The case in sight, by moment; the first one when nothing was chosen. */
  const [cases, setCases] = useState<Record<string, string | null>>(() => {
    const at = atFirst ? findStep(draft, atFirst) : null;
    return at ? { [at.moment.id]: at.caseId } : {};
  });
  const choose = (what: { step?: string; moment?: string }) => {
    setStep(what.step ?? null);
    setMoment(what.moment ?? null);
    setReading(false);
    setTimes((before) => before + 1);
  };
  const showCases = (more: Record<string, string | null>) => setCases((before) => ({ ...before, ...more }));
  const chooseMoment = (momentId: string) => choose({ moment: momentId });
  const chooseStep = (stepId: string) => choose({ step: stepId });
  return {
    step,
    moment,
    reading,
    setReading: (wanted: boolean) => {
      setReading(wanted);
      if (wanted) setTimes((before) => before + 1);
    },
    /** How often something was chosen since the page opened. */
    times,
    chooseStep,
    chooseMoment,
    /** Nothing is chosen any more. */
    leave: () => {
      setStep(null);
      setMoment(null);
    },
    showCases,
    /** The case of a moment that is in sight; null for otherwise, and where there are none. */
    caseOf(momentId: string): string | null {
      const { cases: all = [] } = draft.moments.find((moment) => moment.id === momentId) ?? {};
      const wanted = cases[momentId];
      if (wanted === null) return null;
      return all.some((one) => one.id === wanted) ? wanted! : (all[0]?.id ?? null);
    },
    /** Leads to where something is found wrong. */
    go({ place }: Finding) {
      if (place.field === 'moment' && 'momentId' in place) return chooseMoment(place.momentId);
      if (!place.stepId) return;
      const at = findStep(draft, place.stepId);
      if (at) showCases({ [at.moment.id]: at.caseId });
      chooseStep(place.stepId);
      setTimeout(() => document.querySelector<HTMLElement>(`aside [data-field="${place.field}"]`)?.focus(), 60);
    },
  };
}
