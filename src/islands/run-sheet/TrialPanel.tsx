import { useState } from 'react';
import { Choice } from '../../components/fields.tsx';
import { neededPerHalf } from '../../core/results/trial-size.ts';
import type { Step } from '../../core/workflow/definition.ts';
import { TRIAL_GOALS, type Trial, type TrialGoal, type Version } from '../../core/workflow/trial.ts';

const DAYS = [1, 3, 7, 14, 30] as const;
const SIZES = [50, 100, 200, 400, 800, 1600, 3200] as const;
/** What half of those that are asked about is usual, where nothing is known: our own choice. */
const USUAL = 0.1;

/** Tries a step in two versions: which of them is edited, what counts, how many of each; and ends it. */
export function TrialPanel({
  step,
  version,
  show,
  start,
  change,
  end,
}: {
  step: Step;
  version: Version;
  show: (version: Version) => void;
  start: (trial: Trial) => void;
  change: (patch: Partial<Trial>) => void;
  end: (version: Version) => void;
}) {
  const { trial } = step;
  const [ending, setEnding] = useState(false);
  if (!trial)
    return (
      <button
        type="button"
        className="btn btn-ghost btn-xs mb-2"
        onClick={() => {
          start({ id: crypto.randomUUID(), settings: {}, goal: 'replied', days: 7, perHalf: 200 });
          show('b');
        }}
      >
        Try it in two versions
      </button>
    );
  // The smallest difference so many tell from chance, four times out of five.
  const telling = [0.02, 0.03, 0.04, 0.05, 0.07, 0.1, 0.15, 0.2, 0.3].find(
    (more) => neededPerHalf(USUAL, USUAL + more) <= trial.perHalf,
  );
  return (
    <div className="mb-3 rounded-lg border border-base-300 p-2.5">
      <div className="mb-2 flex items-center gap-1" role="tablist" aria-label="Versions">
        {(['a', 'b'] as const).map((one) => (
          <button
            key={one}
            type="button"
            role="tab"
            aria-selected={one === version}
            className={`btn btn-xs ${one === version ? 'btn-primary' : 'btn-plain'}`}
            onClick={() => show(one)}
          >
            Version {one.toUpperCase()}
          </button>
        ))}
        <button type="button" className="btn btn-ghost btn-xs ml-auto" onClick={() => setEnding(!ending)}>
          End it
        </button>
      </div>
      {ending && (
        <div className="notice mb-2">
          <p className="mb-2">Which one is kept?</p>
          <div className="flex gap-2">
            {(['a', 'b'] as const).map((one) => (
              <button
                key={one}
                type="button"
                className="btn btn-plain btn-xs"
                onClick={() => {
                  show('a');
                  end(one);
                }}
              >
                Keep version {one.toUpperCase()}
              </button>
            ))}
          </div>
        </div>
      )}
      <Choice
        label="What counts"
        value={trial.goal}
        options={Object.entries(TRIAL_GOALS) as [TrialGoal, string][]}
        onChange={(goal) => change({ goal })}
      />
      <div className="grid grid-cols-2 gap-2">
        <Choice
          label="within"
          value={String(trial.days)}
          options={DAYS.map((days) => [String(days), days === 1 ? '1 day' : `${days} days`] as const)}
          onChange={(days) => change({ days: Number(days) })}
        />
        <Choice
          label="of each version"
          value={String(trial.perHalf)}
          options={SIZES.map((size) => [String(size), `${size} people`] as const)}
          onChange={(size) => change({ perHalf: Number(size) })}
        />
      </div>
      <p className="text-note text-ink-2">
        Chance decides who gets which. It is decided once, when both have their people and their days are over.{' '}
        {telling === undefined
          ? 'So few tell only very large differences from chance.'
          : `So many tell ${USUAL * 100} of 100 from ${Math.round((USUAL + telling) * 100)} of 100, four times out of five.`}{' '}
        How it stands: <b>What it brings</b>, above.
      </p>
    </div>
  );
}
