const STEPS = ['Kind', 'What to listen to', 'Catch one', 'Lead card'];

/** Where in the setting up of a source one is; the same four stops for every kind. */
export function SetupSteps({ at }: { at: 1 | 2 | 3 | 4 }) {
  return (
    <ol className="mb-4 flex flex-wrap items-center gap-x-2 text-note" aria-label="Setting up a source">
      {STEPS.map((name, i) => (
        <li
          key={name}
          aria-current={i + 1 === at ? 'step' : undefined}
          className={`flex items-center gap-2 ${i + 1 === at ? 'font-semibold' : 'text-ink-2'}`}
        >
          {i > 0 && <span aria-hidden="true" className="h-px w-6 bg-brass-line" />}
          <span
            aria-hidden="true"
            className={`size-2.5 rounded-full border border-brass-line ${i + 1 <= at ? 'bg-brass-line' : ''}`}
          />
          {name}
        </li>
      ))}
    </ol>
  );
}
