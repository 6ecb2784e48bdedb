import type { Mark } from '../../core/sentence/draft.ts';

const LOOK: Record<Mark['made'] | 'unread', string> = {
  source: 'bg-slate-soft',
  moment: 'bg-brass-soft',
  condition: 'bg-brass-soft',
  step: 'bg-pine-soft',
  rule: 'bg-mulberry-soft',
  unread: 'bg-bad-soft underline decoration-wavy decoration-error',
};
const MEANS: Record<Mark['made'] | 'unread', string> = {
  source: 'where leads come from',
  moment: 'when',
  condition: 'only if',
  step: 'what is done',
  rule: 'a rule',
  unread: 'not understood',
};

/** What somebody has said, with which words made what. */
export function SaidWords({
  text,
  marks,
  unread,
}: {
  text: string;
  marks: readonly Mark[];
  unread: readonly { from: number; to: number }[];
}) {
  const all = [...marks, ...unread.map((one) => ({ ...one, made: 'unread' as const, id: '' }))].sort(
    (a, b) => a.from - b.from || b.to - a.to,
  );
  const parts: { words: string; made: Mark['made'] | 'unread' | null }[] = [];
  let at = 0;
  for (const { from, to, made } of all) {
    if (to <= at) continue;
    const begin = Math.max(from, at);
    if (begin > at) parts.push({ words: text.slice(at, begin), made: null });
    parts.push({ words: text.slice(begin, to), made });
    at = to;
  }
  parts.push({ words: text.slice(at), made: null });
  const here = [...new Set(parts.flatMap(({ made }) => made ?? []))];
  return (
    <div>
      <p className="leading-7" data-testid="said">
        {parts.map(({ words, made }, i) =>
          made === null ? (
            words
          ) : (
            // biome-ignore lint/suspicious/noArrayIndexKey: parts of one text stand in its order
            <mark key={i} className={`rounded px-1 py-0.5 text-inherit ${LOOK[made]}`} title={MEANS[made]}>
              {words}
            </mark>
          ),
        )}
      </p>
      <p className="mt-1 flex flex-wrap gap-2 text-xs text-ink-2">
        {here.map((made) => (
          <span key={made} className="flex items-center gap-1">
            <span className={`inline-block size-3 rounded ${LOOK[made]}`} aria-hidden="true" />
            {MEANS[made]}
          </span>
        ))}
      </p>
    </div>
  );
}
