import Play from 'lucide-react/icons/play';
import Send from 'lucide-react/icons/send';
import { useState } from 'react';
import type { SentToMe } from '../../app/workflows/send-to-me.ts';
import { messageOf } from '../../client/call.ts';
import { within } from '../../client/within.ts';
import type { Step } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';

/** What the button says, and what it really does; null where a try has no meaning. */
function wordsFor(plan: Plan | null, kind: string): { button: string; about: string } | null {
  if (kind === 'mailing')
    return { button: 'Send it to my inbox', about: 'Really sends one email, to your test address only.' };
  if (plan?.does === 'send')
    return plan.message.channel === 'email'
      ? { button: 'Send it to my inbox', about: 'Really sends one email, to your test address only.' }
      : { button: 'Send it to my phone', about: 'Really sends one message, to your test number only.' };
  if (plan?.does === 'record')
    return {
      button: 'Do it once, for me',
      about: 'Really does it once, with your own name and test addresses in place of the sample’s.',
    };
  if (plan?.does === 'call')
    return { button: 'Call it once', about: 'Really calls the service once, with the sample.' };
  if (plan?.does === 'look') return { button: 'Look it up', about: 'Looks it up once, with the sample.' };
  return MESSAGES.has(kind) ? { button: 'Send it to me', about: 'Nothing would be sent for this sample.' } : null;
}
const MESSAGES = new Set(['text', 'ask', 'email', 'chat', 'chat-template', 'tell']);

/** Really performs the step once, for the coordinator alone, and says where to look. */
export function TryIt({ step, plan, onTry }: { step: Step; plan: Plan | null; onTry: () => Promise<SentToMe> }) {
  const [came, setCame] = useState<{ text: string; good: boolean; look: SentToMe['look'] } | null>(null);
  const [busy, setBusy] = useState(false);
  const words = wordsFor(plan, step.kind);
  if (!words) return null;
  const sends = plan?.does === 'send' || step.kind === 'mailing';
  const perform = async () => {
    setBusy(true);
    try {
      const { accepted, to, detail, look } = await onTry();
      setCame({
        good: accepted,
        look,
        text: sends
          ? accepted
            ? `Sent to ${to}. Look there now.`
            : `Not sent to ${to}: ${detail}`
          : `${to}. ${detail}${/[.!?]$/.test(detail) ? '' : '.'}`,
      });
    } catch (error) {
      setCame({ good: false, text: messageOf(error), look: null });
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <button
        type="button"
        className="btn btn-plain mt-3 w-full"
        disabled={busy || plan === null || !(MESSAGES.has(step.kind) || 'what' in plan || plan.does === 'send')}
        onClick={() => void perform()}
      >
        {sends ? <Send className="size-4" aria-hidden="true" /> : <Play className="size-4" aria-hidden="true" />}
        {words.button}
      </button>
      <p
        className={`mt-1.5 text-xs ${came ? (came.good ? 'text-success' : 'text-error') : 'text-ink-2'}`}
        role="status"
      >
        {came ? came.text : words.about}{' '}
        {came?.look && (
          <a className="link" href={within(came.look.href)}>
            {came.look.words}
          </a>
        )}
      </p>
    </>
  );
}
