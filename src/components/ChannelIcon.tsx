import Mail from 'lucide-react/icons/mail';
import MessageSquareText from 'lucide-react/icons/message-square-text';
import MessagesSquare from 'lucide-react/icons/messages-square';
import type { Channel } from '../core/workflow/channel.ts';

const ICONS = { text: MessageSquareText, email: Mail, chat: MessagesSquare };
const NAMES = { text: 'Text', email: 'Email', chat: 'Chat' };

/** By which channel something was written. */
export function ChannelIcon({ channel }: { channel: Channel }) {
  const Icon = ICONS[channel];
  return <Icon className="size-4 shrink-0 text-ink-2" role="img" aria-label={NAMES[channel]} />;
}
