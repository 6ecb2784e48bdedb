import CircleQuestionMark from 'lucide-react/icons/circle-question-mark';
import { HINTS, type HintTerm } from '../core/words/hints.ts';
import { Popover } from './Popover.tsx';

/** What a word of ours means, beside it: by pointer as a title, by a press or the keyboard as a panel. */
export function Hint({ term }: { term: HintTerm }) {
  return (
    <Popover
      label={`What is ${HINTS[term].name}? ${HINTS[term].means}`}
      button={<CircleQuestionMark className="size-3.5" aria-hidden="true" />}
      buttonClass="inline-grid size-6 place-items-center rounded-full text-ink-3 hover:bg-base-200"
      panelClass="w-72 p-3 text-left text-note font-normal"
      placement="bottom-start"
    >
      {() => (
        <>
          <p className="mb-1 font-semibold">{HINTS[term].called}</p>
          <p className="text-ink-2">{HINTS[term].means}</p>
        </>
      )}
    </Popover>
  );
}
