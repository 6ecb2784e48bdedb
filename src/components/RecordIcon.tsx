import CalendarPlus from 'lucide-react/icons/calendar-plus';
import Handshake from 'lucide-react/icons/handshake';
import ListPlus from 'lucide-react/icons/list-plus';
import NotebookPen from 'lucide-react/icons/notebook-pen';
import PencilLine from 'lucide-react/icons/pencil-line';
import PhoneForwarded from 'lucide-react/icons/phone-forwarded';
import Rows3 from 'lucide-react/icons/rows-3';
import ShieldCheck from 'lucide-react/icons/shield-check';
import Tag from 'lucide-react/icons/tag';
import Trophy from 'lucide-react/icons/trophy';
import type { LeadEvent } from '../app/leads/lead-story.ts';

const ICONS = {
  note: NotebookPen,
  outcome: Trophy,
  tag: Tag,
  list: ListPlus,
  task: PhoneForwarded,
  hold: CalendarPlus,
  deal: Handshake,
  row: Rows3,
  consent: ShieldCheck,
  change: PencilLine,
};

/** What stands for something put on record, on a lead's time line. */
export function RecordIcon({ what }: { what: Extract<LeadEvent, { kind: 'record' }>['what'] }) {
  const Icon = ICONS[what];
  return <Icon className="size-4" aria-hidden="true" />;
}
