import { Resolver } from 'node:dns/promises';
import { dkimName, type PublishedRecords, type SigningKey } from '../core/mail/sending-domain.ts';

/** Time for each question, milliseconds, and how often it is asked. */
const TIMEOUT_MS = 3000;
const TRIES = 2;

/** What DNS says of a domain that mail is sent for. `servers` instead of those of the machine, as "127.0.0.1:5353". */
export async function publishedRecords(key: SigningKey, servers: readonly string[] = []): Promise<PublishedRecords> {
  const resolver = new Resolver({ timeout: TIMEOUT_MS, tries: TRIES });
  if (servers.length > 0) resolver.setServers(servers);
  const texts = async (name: string): Promise<string[] | null> => {
    try {
      return (await resolver.resolveTxt(name)).map((parts) => parts.join(''));
    } catch (error) {
      const { code } = error as { code?: string };
      // Nothing there is an answer; no answer is none.
      return code === 'ENOTFOUND' || code === 'ENODATA' ? [] : null;
    }
  };
  const [dkim, spf, dmarc] = await Promise.all([
    texts(dkimName(key)),
    texts(key.domain),
    texts(`_dmarc.${key.domain}`),
  ]);
  return { dkim, spf, dmarc };
}
