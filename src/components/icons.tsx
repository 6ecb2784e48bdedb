import BellRing from 'lucide-react/icons/bell-ring';
import CalendarDays from 'lucide-react/icons/calendar-days';
import ClipboardList from 'lucide-react/icons/clipboard-list';
import FilePenLine from 'lucide-react/icons/file-pen-line';
import FileSpreadsheet from 'lucide-react/icons/file-spreadsheet';
import Filter from 'lucide-react/icons/filter';
import Inbox from 'lucide-react/icons/inbox';
import Mail from 'lucide-react/icons/mail';
import MessageSquareText from 'lucide-react/icons/message-square-text';
import Rss from 'lucide-react/icons/rss';
import Sheet from 'lucide-react/icons/sheet';
import ShoppingBag from 'lucide-react/icons/shopping-bag';
import Sparkles from 'lucide-react/icons/sparkles';
import Upload from 'lucide-react/icons/upload';
import Webhook from 'lucide-react/icons/webhook';
import type { ComponentType } from 'react';

const ICONS: Record<string, ComponentType<{ className?: string }>> = {
  'bell-ring': BellRing,
  'clipboard-list': ClipboardList,
  mail: Mail,
  'message-square-text': MessageSquareText,
  sparkles: Sparkles,
  'calendar-days': CalendarDays,
  'file-pen-line': FilePenLine,
  filter: Filter,
  inbox: Inbox,
  rss: Rss,
  'shopping-bag': ShoppingBag,
  sheet: Sheet,
  'file-spreadsheet': FileSpreadsheet,
  upload: Upload,
  webhook: Webhook,
};

/** The icon a kind of step or source names. */
export function KindIcon({ name, className = 'size-4 shrink-0' }: { name: string; className?: string }) {
  const Icon = ICONS[name] ?? Sparkles;
  return <Icon aria-hidden="true" className={className} />;
}
