import BellRing from 'lucide-react/icons/bell-ring';
import Mail from 'lucide-react/icons/mail';
import MessageSquareText from 'lucide-react/icons/message-square-text';
import Moon from 'lucide-react/icons/moon';
import ShieldOff from 'lucide-react/icons/shield-off';
import TriangleAlert from 'lucide-react/icons/triangle-alert';
import type { RingRow } from '../../app/today/today.ts';
import { within } from '../../client/within.ts';
import { ReplyTime } from '../../components/run-state.tsx';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';

/** Who has rung in last, and what each got. */
export function RingList({ rows, now, place }: { rows: readonly RingRow[]; now: number; place: Place }) {
  return (
    <ul data-testid="ring-list">
      {rows.map((row) => (
        <li key={row.runId} className="border-b border-base-300 last:border-0">
          <a
            href={within(`/workflows/${row.workflowId}/log?run=${row.runId}`)}
            className="grid grid-cols-[56px_minmax(150px,1fr)_2fr_100px] items-center gap-3 px-4 py-2.5 hover:bg-base-200 max-md:grid-cols-[48px_1fr_auto]"
          >
            <time className="text-note text-ink-2" dateTime={row.at} title={exactWords(row.at, place)}>
              {whenWords(row.at, now, place)}
            </time>
            <span className="min-w-0">
              <span className="block truncate font-semibold">{row.name}</span>
              <span className="block truncate text-xs text-ink-2">{row.sourceName}</span>
            </span>
            <Sent row={row} />
            <span className="text-right font-semibold">
              {row.replyMs === null ? (
                <span className="text-xs font-normal text-ink-2">
                  {row.state === 'active' ? 'under way' : row.state === 'needs_you' ? 'not answered' : 'no reply due'}
                </span>
              ) : (
                <ReplyTime ms={row.replyMs} />
              )}
            </span>
          </a>
        </li>
      ))}
    </ul>
  );
}

function Sent({ row }: { row: RingRow }) {
  if (row.state === 'known') return <Note icon={<Moon className="size-4" />} text="Known person, updated" />;
  if (row.state === 'stopped') return <Note icon={<ShieldOff className="size-4" />} text={row.outcome} />;
  return (
    <span className="flex flex-wrap gap-x-3 gap-y-1 text-note text-ink-2 max-md:hidden">
      {row.sent.map((one, i) => {
        const name = one.audience === 'team' ? 'Team told' : CHANNEL_WORDS[one.channel].one;
        const Icon = !one.ok
          ? TriangleAlert
          : one.audience === 'team'
            ? BellRing
            : one.channel === 'email'
              ? Mail
              : MessageSquareText;
        // biome-ignore lint/suspicious/noArrayIndexKey: the list of a run only ever grows at its end
        return <Note key={i} icon={<Icon className="size-4" />} text={one.ok ? name : `${name} refused`} />;
      })}
    </span>
  );
}

function Note({ icon, text }: { icon: React.ReactNode; text: string }) {
  return (
    <span className="flex items-center gap-1 text-note text-ink-2">
      {icon}
      {text}
    </span>
  );
}
