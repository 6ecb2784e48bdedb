import { expect } from 'chai';
import fc from 'fast-check';
import { retryDelayMs, retryFor } from '../../src/core/delivery/backoff.ts';
import { flatten } from '../../src/core/fields/flatten.ts';
import { commandAnswer, commandOf } from '../../src/core/message/command-words.ts';
import { measureText } from '../../src/core/message/text-segments.ts';
import { guessCard } from '../../src/core/source/lead-card.ts';
import { draftLead } from '../../src/core/source/lead-draft.ts';
import { findWhereFrom } from '../../src/core/source/where-from.ts';
import { emailHtml, escapeHtml } from '../../src/core/template/email-html.ts';
import { readReference, writeReference } from '../../src/core/template/field-reference.ts';
import { templatePieces, usedReferences } from '../../src/core/template/template.ts';
import { durationWords, replySpeed } from '../../src/core/words/duration.ts';
import { whenWords } from '../../src/core/words/instant.ts';
import { median } from '../../src/core/words/median.ts';
import { Batcher } from '../../src/db/hot/batcher.ts';
import { SecretBox } from '../../src/db/secret-box.ts';
import { byTheClock, LanesAtWork } from '../../src/engine/runs/lanes-at-work.ts';

const fieldsOf = (value: unknown) => {
  const flat = flatten(value);
  return flat.ok ? flat.fields : [];
};

describe('fields', () => {
  it('nested names are joined, lists of values become one field, lists of things are numbered', () => {
    expect(
      fieldsOf({
        contact: { emailAddress: 'a@b.example' },
        wants: ['Piano', 2],
        lines: [{ sku: 'x' }, { sku: 'y' }],
      }).map((f) => [f.key, f.label, f.value]),
    ).to.deep.equal([
      ['contact.emailAddress', 'Contact email address', 'a@b.example'],
      ['wants', 'Wants', 'Piano, 2'],
      ['lines', 'Lines', 'x; y'],
      ['lines.1.sku', 'Lines 1 sku', 'x'],
      ['lines.2.sku', 'Lines 2 sku', 'y'],
    ]);
    const [list] = fieldsOf({ lines: [{ sku: 'x', n: 2 }, JSON.parse('{"__proto__": "own", "of": ["a", "b"]}')] });
    expect(JSON.stringify(list!.rows)).to.equal('[{"sku":"x","n":"2"},{"__proto__":"own","of":"a, b"}]');
    expect(fieldsOf({ deep: [{ a: { b: 1 } }] }).map((f) => f.rows)).to.deep.equal([undefined]);
  });
  it('any JSON gives fields or a reason, never an exception, and no text PostgreSQL cannot store', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const flat = flatten(value);
        if (flat.ok)
          for (const field of flat.fields)
            expect(field.key + field.label + field.value).to.satisfy(
              (s: string) => s.isWellFormed() && !s.includes('\0'),
            );
        else expect(['too-deep', 'too-many']).to.include(flat.problem);
      }),
    );
  });
});

describe('the lead card', () => {
  it('guesses from names: "Contact number", "E-mail", "full_name"', () => {
    const card = guessCard(
      fieldsOf({
        full_name: 'Teo van der Venn',
        'E-mail': 'teo@example.com',
        'Contact number': '07700 900123',
        wants: 'Cello',
        gdpr_consent: 'yes',
      }),
      'GB',
    );
    expect(card).to.deep.equal({
      fields: { full_name: 'full_name', email: 'E-mail', phone: 'Contact number' },
      consent: { kind: 'field', key: 'gdpr_consent', wordingKey: null },
    });
  });
  it('guesses from values where names say nothing', () => {
    const card = guessCard(fieldsOf({ f1: 'Cello', f2: 'teo@example.com', f3: '07700 900123' }), 'GB');
    expect(card.fields).to.deep.equal({ email: 'f2', phone: 'f3' });
  });
  it('reads a lead by it: the whole name split in two, identities, consent with its wording', () => {
    const fields = fieldsOf({
      name: 'Teo van der Venn',
      mail: 'Teo@Example.com',
      tel: '07700 900123',
      ok: 'Yes',
      text: 'You may write to me.',
      wants: 'Cello',
    });
    const draft = draftLead(
      fields,
      {
        fields: { full_name: 'name', email: 'mail', phone: 'tel' },
        consent: { kind: 'field', key: 'ok', wordingKey: 'text' },
      },
      'GB',
    );
    expect(draft.person).to.deep.equal({
      first_name: 'Teo',
      last_name: 'van der Venn',
      email: 'Teo@Example.com',
      phone: '07700 900123',
    });
    expect(draft.identities).to.deep.equal([
      { kind: 'email', value: 'teo@example.com' },
      { kind: 'phone', value: '+447700900123' },
    ]);
    expect(draft.consent).to.deep.equal({ state: 'given', wording: 'You may write to me.' });
    expect(Object.keys(draft.answers)).to.deep.equal(['wants']);
  });
  it('a tick that is not set is no consent', () => {
    const draft = draftLead(
      fieldsOf({ ok: 'false' }),
      { fields: {}, consent: { kind: 'field', key: 'ok', wordingKey: null } },
      'GB',
    );
    expect(draft.consent?.state).to.equal('unticked');
  });
  it('finds where a lead came from; the first of each name counts', () => {
    expect(
      findWhereFrom(fieldsOf({ utm_source: 'a', nested: { utm_source: 'b', 'utm-campaign': 'c' }, form: 'x' })),
    ).to.deep.equal({ utm_source: 'a', utm_campaign: 'c' });
  });
});

describe('field references and chips', () => {
  it('any key can be written and read back', () => {
    fc.assert(
      fc.property(
        fc.string({ minLength: 1 }).filter((key) => !/["\\]/.test(key)),
        (key) => {
          expect(readReference(writeReference({ group: 'answers', key }))).to.deep.equal({ group: 'answers', key });
        },
      ),
    );
  });
  it('a message is cut into text and chips with their tidyings, and put together again it is the same', () => {
    const source = 'Hi {{ lead.first_name | capitalize | default: "you" }}, {{answers["a.b"]}}!';
    const pieces = templatePieces(source);
    expect(pieces.map((piece) => (piece.kind === 'text' ? piece.text : piece.source)).join('')).to.equal(source);
    expect(pieces[1]).to.deep.include({
      reference: { group: 'lead', key: 'first_name' },
      filters: [
        { name: 'capitalize', args: [] },
        { name: 'default', args: [{ text: 'you' }] },
      ],
    });
    expect(usedReferences(source)).to.have.length(2);
  });
});

describe('emails as HTML', () => {
  it('whatever was typed, no markup comes of it', () => {
    fc.assert(
      fc.property(fc.string(), (typed) => {
        const body = emailHtml(`${typed} <script>`).split('max-width:560px">')[1]!;
        expect(body.replace(/<\/?(p|br|a|div|body|html)( [^<>]*)?>/g, '')).to.not.match(/<[a-z]/i);
      }),
    );
    expect(escapeHtml(`<a href="x" o='y'>&`)).to.equal('&lt;a href=&quot;x&quot; o=&#39;y&#39;&gt;&amp;');
  });
  it('links web addresses without their full stop', () => {
    expect(emailHtml('See https://wren.example/t/4k2.')).to.contain(
      '<a href="https://wren.example/t/4k2">https://wren.example/t/4k2</a>.',
    );
  });
});

describe('waiting and trying again', () => {
  it('full jitter: uniform below a bound of 1 2 4 8 16 32 60 60 seconds', () => {
    const bounds = Array.from({ length: 8 }, (_, attempt) =>
      Math.round(retryDelayMs(retryFor(60), attempt, null, 0.999_999) / 1000),
    );
    expect(bounds).to.deep.equal([1, 2, 4, 8, 16, 32, 60, 60]);
    expect(retryDelayMs(retryFor(60), 5, null, 0)).to.equal(0);
  });
  it('a wait that was asked for is kept to up to an hour, and no other number makes it longer', () => {
    fc.assert(
      fc.property(
        fc.nat(30),
        fc.oneof(fc.nat(600_000), fc.constantFrom(2e9, 1e13, Number.MAX_SAFE_INTEGER, Number.POSITIVE_INFINITY)),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        (attempt, asked, random) => {
          expect(retryDelayMs(retryFor(60), attempt, asked, random)).to.be.within(
            Math.min(asked, 3_600_000),
            Math.min(asked, 3_600_000) + 1000,
          );
        },
      ),
    );
  });
  it('a lane may wait as long as another is at work, and is sent away when all rest', async () => {
    const lanes = new LanesAtWork(2, byTheClock);
    const waited = lanes.wait(60_000);
    lanes.finished();
    expect(await waited).to.equal(false);
    const others = new LanesAtWork(2, byTheClock);
    expect(await others.wait(2100)).to.equal(true);
  }).timeout(10_000);
});

describe('the batcher', () => {
  it('writes a lone item at once and gathers what comes meanwhile', async () => {
    const batches: number[][] = [];
    const batcher = new Batcher<number, number>(
      async (items) => {
        batches.push(items);
        await new Promise((r) => setTimeout(r, 5));
        return items.map((n) => n * 2);
      },
      { parallel: 1, most: 3 },
    );
    const first = batcher.add(1);
    await new Promise((r) => setTimeout(r, 1));
    const rest = [2, 3, 4, 5].map((n) => batcher.add(n));
    expect(await Promise.all([first, ...rest])).to.deep.equal([2, 4, 6, 8, 10]);
    expect(batches).to.deep.equal([[1], [2, 3, 4], [5]]);
  });
  it('sends another beside one that takes its time, so that nobody waits for a lock that is not theirs', async () => {
    const batches: number[][] = [];
    let release = () => {};
    const held = new Promise<void>((resolve) => (release = resolve));
    const batcher = new Batcher<number, number>(
      async (items) => {
        batches.push(items);
        if (items.includes(1)) await held;
        return items;
      },
      { parallel: 2, most: 3 },
    );
    const first = batcher.add(1);
    await new Promise((r) => setTimeout(r, 1));
    const rest = [batcher.add(2), batcher.add(3)];
    expect(batches).to.deep.equal([[1]]);
    expect(await Promise.all(rest)).to.deep.equal([2, 3]);
    expect(batches).to.deep.equal([[1], [2, 3]]);
    release();
    expect(await first).to.equal(1);
  });
  it('one bad item fails alone', async () => {
    const batcher = new Batcher<number, number>(
      async (items) => {
        if (items.includes(2)) throw new Error('bad');
        return items;
      },
      { parallel: 1, most: 10 },
    );
    const results = await Promise.allSettled([1, 2, 3].map((n) => batcher.add(n)));
    expect(results.map((result) => result.status)).to.deep.equal(['fulfilled', 'rejected', 'fulfilled']);
  });
  it('tries again as often as it is told to', async () => {
    let tries = 0;
    const batcher = new Batcher<number, number>(
      async (items) => {
        if (++tries < 3) throw new Error('away');
        return items;
      },
      { parallel: 1, most: 10, again: (_, n) => (n < 5 ? 1 : null) },
    );
    expect(await batcher.add(7)).to.equal(7);
  });
});

describe('secrets at rest', () => {
  const box = new SecretBox(Buffer.alloc(32, 7));
  it('come back, look different each time, and show tampering', () => {
    const [one, two] = [box.seal('whsec_x'), box.seal('whsec_x')];
    expect(one).to.not.equal(two);
    expect(box.open(one)).to.equal('whsec_x');
    const bytes = Buffer.from(one.slice(2), 'base64url');
    bytes[bytes.length - 1]! ^= 1;
    expect(() => box.open(`1.${bytes.toString('base64url')}`)).to.throw();
    expect(() => new SecretBox(Buffer.alloc(32, 8)).open(one)).to.throw();
  });
});

describe('words for people', () => {
  it('durations always carry their unit', () => {
    expect([1, 640, 1234, 9960, 59_400, 190_000, 3_600_000, 7_500_000, 260_000_000].map(durationWords)).to.deep.equal([
      '1 ms',
      '640 ms',
      '1.2 s',
      '10 s',
      '59 s',
      '3 m 10 s',
      '1 h',
      '2 h 5 m',
      '3 days',
    ]);
  });
  it('a reply is good inside a minute, fair inside five', () => {
    expect([60_000, 60_001, 300_000, 300_001].map(replySpeed)).to.deep.equal(['good', 'fair', 'fair', 'late']);
  });
  it('times are the business’s, also over a clock change', () => {
    const place = { locale: 'en-GB', timeZone: 'Europe/London' };
    expect(whenWords('2025-03-30T01:30:00Z', Date.parse('2025-03-30T12:00:00Z'), place)).to.equal('02:30');
    expect(whenWords('2025-03-29T23:30:00Z', Date.parse('2025-03-30T12:00:00Z'), place)).to.equal('Sat 29 Mar, 23:30');
  });
  it('the middle of none is none; of an even count the mean of the middle two', () => {
    expect([median([]), median([3]), median([4, 1, 3, 2])]).to.deep.equal([null, 3, 2.5]);
  });
  it('STOP, START and HELP are wishes only when they stand alone, in several languages', () => {
    const asked = (text: string) => commandOf(text)?.command ?? null;
    expect(
      ['STOP', ' stop! ', 'Unsubscribe.', 'Arrêt', 'please do not stop', 'stop by at 5', 'Start', 'Hilfe!'].map(asked),
    ).to.deep.equal(['stop', 'stop', 'stop', 'stop', null, null, 'start', 'help']);
    expect(commandAnswer('stop', commandOf('ABMELDEN')!.language, 'Wrenfield')).to.match(/keine Nachrichten mehr/);
    for (const word of ['stop', 'stopp', 'arret', 'alto', 'basta', 'parar', 'afmelden', 'help', 'aide'])
      expect(
        measureText(commandAnswer(commandOf(word)!.command, commandOf(word)!.language, 'Wrenfield')).parts,
      ).to.be.at.most(2);
  });
});
