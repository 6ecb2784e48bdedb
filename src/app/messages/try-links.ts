import type { EmailLayout } from '../../core/email/layout.ts';
import { layoutLinks } from '../../core/email/layout-links.ts';
import { demand } from '../actor.ts';
import type { Use } from '../use.ts';

export interface TriedLink {
  blockId: string | null;
  address: string;
  good: boolean;
  /** What it answered, in words. */
  said: string;
}

/** Links tried of one email, at most; a newsletter has a few dozen. */
const MOST = 40;
const AT_ONCE = 5;

/** Follows every link of an email once, as a reader would, and says which lead nowhere. */
export async function tryLinks(use: Use, layout: EmailLayout): Promise<TriedLink[]> {
  demand(use.actor, 'build');
  const links = layoutLinks(layout).slice(0, MOST);
  const tried: TriedLink[] = [];
  for (let at = 0; at < links.length; at += AT_ONCE)
    tried.push(
      ...(await Promise.all(
        links.slice(at, at + AT_ONCE).map(async ({ blockId, address }): Promise<TriedLink> => {
          const answer = await use.runtime.outside.http.call('GET', address, { 'user-agent': 'Pine Bell link check' });
          if (!answer.ok) return { blockId, address, good: false, said: answer.detail };
          const { status } = answer.reply;
          const good = status < 400;
          return {
            blockId,
            address,
            good,
            said: good
              ? 'It leads somewhere'
              : status === 404 || status === 410
                ? 'There is no such page'
                : `It answers with error ${status}`,
          };
        }),
      )),
    );
  return tried;
}
