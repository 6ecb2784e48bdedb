import BellRing from 'lucide-react/icons/bell-ring';
import ClipboardList from 'lucide-react/icons/clipboard-list';
import Mail from 'lucide-react/icons/mail';
import MessageSquareText from 'lucide-react/icons/message-square-text';
import Sparkles from 'lucide-react/icons/sparkles';
import Webhook from 'lucide-react/icons/webhook';
import type { ComponentType } from 'react';

const ICONS: Record<string, ComponentType<{ className?: string }>> = {
  'bell-ring': BellRing,
  'clipboard-list': ClipboardList,
  mail: Mail,
  'message-square-text': MessageSquareText,
  sparkles: Sparkles,
  webhook: Webhook,
};

/** The icon a kind of step or source names. */
export function KindIcon({ name, className = 'size-4 shrink-0' }: { name: string; className?: string }) {
  const Icon = ICONS[name] ?? Sparkles;
  return <Icon aria-hidden="true" className={className} />;
}
