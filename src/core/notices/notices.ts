/** What somebody can be told of on their own devices. */
export const NOTICE_KINDS = {
  leads: 'New leads',
  conversations: 'Somebody writes back',
  needs: 'Something needs you',
} as const;
export type NoticeKind = keyof typeof NOTICE_KINDS;

/** A notice as a device shows it. `url` is the page it opens, from the root; of two with the same tag the later takes the place of the earlier. */
export interface Notice {
  title: string;
  body: string;
  url: string;
  /** Of two with the same the later takes the place of the earlier. */
  tag: string;
}

/** What has come since somebody was told last, the newest first, with how many there are of each in all. */
export interface SinceThen {
  leads: { total: number; newest: { id: string; name: string; source: string }[] };
  conversations: { total: number; newest: { id: string; name: string; text: string }[] };
  needs: { total: number; newest: { title: string }[] };
}

/** Longest title and text, in characters: what a screen shows, and far below what one push may carry (RFC 8291 §4: 3,993 bytes). */
const LONGEST = { title: 80, body: 160 };
const clip = (text: string, most: number): string => {
  const plain = [...text.replace(/\s+/g, ' ').trim()];
  return plain.length <= most ? plain.join('') : `${plain.slice(0, most - 1).join('')}…`;
};

/** "Nadia, Bram and 3 more". */
function namesOf(names: readonly string[], total: number): string {
  const shown = names.slice(0, 2);
  const more = total - shown.length;
  if (more > 0) return `${shown.join(', ')} and ${more} more`;
  return shown.join(' and ');
}

/** One notice of each kind at most: several of a kind are told as one, so that a crowd of leads is no crowd of notices. */
export function noticesOf({ leads, conversations, needs }: SinceThen, wants: ReadonlySet<NoticeKind>): Notice[] {
  const notices: Notice[] = [];
  const [lead] = leads.newest;
  if (wants.has('leads') && lead)
    notices.push(
      leads.total === 1
        ? { title: `New lead: ${lead.name}`, body: lead.source, url: `/leads/${lead.id}`, tag: 'leads' }
        : {
            title: `${leads.total} new leads`,
            body: namesOf(
              leads.newest.map(({ name }) => name),
              leads.total,
            ),
            url: '/leads',
            tag: 'leads',
          },
    );
  const [conversation] = conversations.newest;
  if (wants.has('conversations') && conversation)
    notices.push(
      conversations.total === 1
        ? {
            title: `${conversation.name} wrote`,
            body: conversation.text,
            url: `/conversations?open=${conversation.id}`,
            tag: 'conversations',
          }
        : {
            title: `${conversations.total} people wrote`,
            body: namesOf(
              conversations.newest.map(({ name }) => name),
              conversations.total,
            ),
            url: '/conversations',
            tag: 'conversations',
          },
    );
  const [need] = needs.newest;
  if (wants.has('needs') && need)
    notices.push({
      title: needs.total === 1 ? 'Something needs you' : `${needs.total} things need you`,
      body: need.title,
      url: '/#needs-you',
      tag: 'needs',
    });
  return notices.map((notice) => ({
    ...notice,
    title: clip(notice.title, LONGEST.title),
    body: clip(notice.body, LONGEST.body),
  }));
}
