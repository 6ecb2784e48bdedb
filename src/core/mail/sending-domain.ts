/** How mail of a domain is signed: DKIM (RFC 6376), with a key of ours. */
export interface SigningKey {
  domain: string;
  /** Names the key in DNS: `selector._domainkey.domain`. */
  selector: string;
  /** The public key, base64 of its SubjectPublicKeyInfo (DER). */
  publicKey: string;
}

/** Where the public key is published. */
export const dkimName = ({ selector, domain }: SigningKey): string => `${selector}._domainkey.${domain}`;
/** What stands there (RFC 6376 §3.6.1). */
export const dkimRecord = ({ publicKey }: SigningKey): string => `v=DKIM1; k=rsa; p=${publicKey}`;

/** What DNS says of a domain: each TXT record as one text. Null where it could not be asked. */
export interface PublishedRecords {
  dkim: string[] | null;
  spf: string[] | null;
  dmarc: string[] | null;
}

export interface DomainFinding {
  what: 'dkim' | 'spf' | 'dmarc';
  state: 'good' | 'missing' | 'wrong' | 'unknown';
  /** In a sentence, with what to do. */
  text: string;
  /** What to publish, where something is to be: the name of the record and its text. */
  publish?: { name: string; text: string };
}

/** A record of tag=value pairs as both RFC 6376 §3.2 and RFC 7489 §6.4 write them. */
export const tagsOf = (record: string): Map<string, string> =>
  new Map(
    record.split(';').flatMap((part): [string, string][] => {
      const at = part.indexOf('=');
      return at < 0 ? [] : [[part.slice(0, at).trim().toLowerCase(), part.slice(at + 1).replace(/\s+/g, '')]];
    }),
  );

/** Whether what is published lets mail of this domain through, and what to publish where it does not. */
export function domainFindings(key: SigningKey, published: PublishedRecords): DomainFinding[] {
  return [dkimFinding(key, published.dkim), spfFinding(key, published.spf), dmarcFinding(key, published.dmarc)];
}

const unknown = (what: DomainFinding['what'], words: string): DomainFinding => ({
  what,
  state: 'unknown',
  text: `${words} could not be looked up just now. Try again in a minute.`,
});

function dkimFinding(key: SigningKey, records: string[] | null): DomainFinding {
  if (records === null) return unknown('dkim', 'The signing key');
  const publish = { name: dkimName(key), text: dkimRecord(key) };
  if (records.length === 0)
    return {
      what: 'dkim',
      state: 'missing',
      text: 'The signing key is not published yet: readers cannot check who signed.',
      publish,
    };
  const right = records.some((record) => tagsOf(record).get('p') === key.publicKey);
  if (right && records.length === 1) return { what: 'dkim', state: 'good', text: 'The signing key is published.' };
  if (right)
    return {
      what: 'dkim',
      state: 'wrong',
      text: 'Several records stand at this name: leave the one with this key alone there.',
      publish,
    };
  return {
    what: 'dkim',
    state: 'wrong',
    text: 'Another key is published at this name. Put this one in its place.',
    publish,
  };
}

function spfFinding({ domain }: SigningKey, records: string[] | null): DomainFinding {
  if (records === null) return unknown('spf', 'Who may send for the domain (SPF)');
  const spf = records.filter((record) => /^v=spf1(\s|$)/i.test(record));
  if (spf.length === 0)
    return {
      what: 'spf',
      state: 'missing',
      text: 'Nothing says who may send for the domain (SPF). Ask whoever runs your mail server what to include; “a mx” stands for the domain’s own machines.',
      publish: { name: domain, text: 'v=spf1 a mx ~all' },
    };
  // RFC 7208 §3.2: more than one is an error for every receiver.
  if (spf.length > 1)
    return {
      what: 'spf',
      state: 'wrong',
      text: 'There are two SPF records, and with two none counts. Put them together into one.',
    };
  if (/(^|\s)\+?all(\s|$)/i.test(spf[0]!))
    return {
      what: 'spf',
      state: 'wrong',
      text: 'The SPF record lets anybody send for the domain (“all”). End it with “~all” or “-all”.',
    };
  return { what: 'spf', state: 'good', text: 'The domain says who may send for it (SPF).' };
}

function dmarcFinding({ domain }: SigningKey, records: string[] | null): DomainFinding {
  if (records === null) return unknown('dmarc', 'What receivers are to do with forgeries (DMARC)');
  const dmarc = records.filter((record) => /^v=DMARC1\s*(;|$)/i.test(record));
  const publish = { name: `_dmarc.${domain}`, text: 'v=DMARC1; p=none' };
  if (dmarc.length === 0)
    return {
      what: 'dmarc',
      state: 'missing',
      text: 'Nothing says what to do with forged mail (DMARC). “p=none” is a safe beginning; large mail services ask for it.',
      publish,
    };
  if (dmarc.length > 1)
    return { what: 'dmarc', state: 'wrong', text: 'There are two DMARC records, and with two none counts. Leave one.' };
  const policy = tagsOf(dmarc[0]!).get('p')?.toLowerCase();
  if (!policy || !['none', 'quarantine', 'reject'].includes(policy))
    return {
      what: 'dmarc',
      state: 'wrong',
      text: 'The DMARC record names no policy (p=none, quarantine or reject).',
      publish,
    };
  return {
    what: 'dmarc',
    state: 'good',
    text:
      policy === 'none'
        ? 'Forged mail is let through and reported (DMARC, p=none).'
        : `Forged mail is ${policy === 'reject' ? 'refused' : 'set aside'} (DMARC, p=${policy}).`,
  };
}
