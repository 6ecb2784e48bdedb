import BellRing from 'lucide-react/icons/bell-ring';
import Building2 from 'lucide-react/icons/building-2';
import CalendarDays from 'lucide-react/icons/calendar-days';
import CalendarPlus from 'lucide-react/icons/calendar-plus';
import ClipboardList from 'lucide-react/icons/clipboard-list';
import Database from 'lucide-react/icons/database';
import FilePenLine from 'lucide-react/icons/file-pen-line';
import FileSpreadsheet from 'lucide-react/icons/file-spreadsheet';
import Filter from 'lucide-react/icons/filter';
import Globe from 'lucide-react/icons/globe';
import Handshake from 'lucide-react/icons/handshake';
import Inbox from 'lucide-react/icons/inbox';
import ListPlus from 'lucide-react/icons/list-plus';
import Mail from 'lucide-react/icons/mail';
import Mails from 'lucide-react/icons/mails';
import MessageCircleQuestion from 'lucide-react/icons/message-circle-question';
import MessageSquarePlus from 'lucide-react/icons/message-square-plus';
import MessageSquareText from 'lucide-react/icons/message-square-text';
import MessagesSquare from 'lucide-react/icons/messages-square';
import NotebookPen from 'lucide-react/icons/notebook-pen';
import PencilLine from 'lucide-react/icons/pencil-line';
import PhoneForwarded from 'lucide-react/icons/phone-forwarded';
import Rss from 'lucide-react/icons/rss';
import Search from 'lucide-react/icons/search';
import Sheet from 'lucide-react/icons/sheet';
import ShieldCheck from 'lucide-react/icons/shield-check';
import ShoppingBag from 'lucide-react/icons/shopping-bag';
import Sparkles from 'lucide-react/icons/sparkles';
import Table2 from 'lucide-react/icons/table-2';
import TagIcon from 'lucide-react/icons/tag';
import Trophy from 'lucide-react/icons/trophy';
import Upload from 'lucide-react/icons/upload';
import UserCheck from 'lucide-react/icons/user-check';
import Webhook from 'lucide-react/icons/webhook';
import type { ComponentType } from 'react';

const ICONS: Record<string, ComponentType<{ className?: string }>> = {
  'bell-ring': BellRing,
  'building-2': Building2,
  database: Database,
  'clipboard-list': ClipboardList,
  mail: Mail,
  mails: Mails,
  'list-plus': ListPlus,
  'message-circle-question': MessageCircleQuestion,
  'message-square-plus': MessageSquarePlus,
  'messages-square': MessagesSquare,
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
  'shield-check': ShieldCheck,
  'notebook-pen': NotebookPen,
  'pencil-line': PencilLine,
  tag: TagIcon,
  trophy: Trophy,
  'table-2': Table2,
  search: Search,
  globe: Globe,
  handshake: Handshake,
  'phone-forwarded': PhoneForwarded,
  'calendar-plus': CalendarPlus,
  'user-check': UserCheck,
};

/** The icon a kind of step or source names. */
export function KindIcon({ name, className = 'size-4 shrink-0' }: { name: string; className?: string }) {
  const Icon = ICONS[name] ?? Sparkles;
  return <Icon aria-hidden="true" className={className} />;
}
