/** What a mail server reports of one recipient (RFC 3464 §2.3). */
export interface RecipientStatus {
  /** The address it was for, as far as it says so. */
  recipient: string;
  action: 'failed' | 'delayed' | 'delivered' | 'relayed' | 'expanded';
  /** RFC 3463: class.subject.detail; empty when none is given. */
  status: string;
  /** What the other server said. */
  diagnostic: string;
}

const ACTIONS = ['failed', 'delayed', 'delivered', 'relayed', 'expanded'] as const;
/** "rfc822;ada@example.org" → "ada@example.org": the type stands before the first semicolon (RFC 3464 §2.1.2). */
const typed = (value: string): string => value.replace(/^[^;]*;/, '').trim();

/** A value without its comments in parentheses (RFC 5322 §3.2.2) and what follows a semicolon: "failed (expired)" is "failed". */
const bare = (value: string): string =>
  value
    .replace(/\([^()]*\)/g, ' ')
    .split(';')[0]!
    .trim();

/**
 * Reads the body of a message/delivery-status part: groups of header fields parted by empty lines, the first about the message,
 * each further one about a recipient. Groups without an action are passed over.
 */
export function readDeliveryStatus(part: string): RecipientStatus[] {
  const groups = part
    .replace(/\r\n?/g, '\n')
    // Folded lines (RFC 5322 §2.2.3).
    .replace(/\n[ \t]+/g, ' ')
    .split(/\n{2,}/);
  return groups.flatMap((group): RecipientStatus[] => {
    const fields = new Map<string, string>();
    for (const line of group.split('\n')) {
      const [, name = '', value = ''] = /^([!-9;-~]+):(.*)$/.exec(line) ?? [];
      if (name !== '' && !fields.has(name.toLowerCase())) fields.set(name.toLowerCase(), value.trim());
    }
    const said = bare(fields.get('action') ?? '').toLowerCase();
    const action = ACTIONS.find((action) => action === said);
    if (!action) return [];
    return [
      {
        recipient: typed(fields.get('final-recipient') ?? fields.get('original-recipient') ?? ''),
        action,
        status: /\d\.\d{1,3}\.\d{1,3}/.exec(bare(fields.get('status') ?? ''))?.[0] ?? '',
        diagnostic: typed(fields.get('diagnostic-code') ?? '').slice(0, 500),
      },
    ];
  });
}

/** A failure for good: the address is not to be written to again (RFC 3463 §2: class 5). A full mailbox (x.2.2) is not. */
export const isLasting = ({ action, status }: RecipientStatus): boolean =>
  action === 'failed' && !status.startsWith('4.') && !/^5\.2\.2$/.test(status);
