import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { idInToken, isOurs, linkToken } from '../../src/app/account/links.ts';
import { mayOpen, pageRight } from '../../src/core/people/page-rights.ts';
import { passwordWeakness } from '../../src/core/people/password-strength.ts';
import { mayDo, RIGHT, RIGHTS, ROLE_WORDS, ROLES, rightsInWords, whoseLeads } from '../../src/core/people/rights.ts';
import { deviceWords } from '../../src/core/words/device.ts';
import { handOverIn } from '../../src/core/workflow/hand-over.ts';
import type { SecretBox } from '../../src/db/secret-box.ts';

describe('who may do what', () => {
  it('is one table: an owner everything, a manager all but people and keys, a viewer no change', () => {
    expect(RIGHTS.filter((right) => !mayDo('owner', right))).to.deep.equal([]);
    expect(RIGHTS.filter((right) => !mayDo('manager', right))).to.deep.equal(['keys', 'people']);
    expect(RIGHTS.filter((right) => mayDo('desk', right))).to.deep.equal(['own', 'see-work', 'do-work']);
    expect(RIGHTS.filter((right) => mayDo('viewer', right))).to.deep.equal([
      ...['own', 'see-work', 'see-setup', 'see-results'],
    ]);
    for (const right of RIGHTS) {
      expect(RIGHT[right].refusal).to.match(/\.$/);
      // Whoever may more may also what whoever may less does; the desk and the viewer stand beside each other.
      for (const [more, less] of [
        ['owner', 'manager'],
        ['manager', 'coordinator'],
        ['coordinator', 'desk'],
        ['coordinator', 'viewer'],
      ] as const)
        if (mayDo(less, right)) expect(mayDo(more, right), `${more} ${right}`).to.equal(true);
    }
  });

  it('says in words what each role may and may not, and keeps only the desk to some leads', () => {
    for (const role of ROLES) {
      const { may, mayNot } = rightsInWords(role);
      expect(may.length + mayNot.length).to.equal(RIGHTS.length);
      expect(ROLE_WORDS[role].sentence).to.match(/\.$/);
      expect(whoseLeads(role, 'own')).to.equal(role === 'desk' ? 'own' : 'all');
    }
  });

  it('asks something of every page there is', () => {
    const OPEN =
      /^(404|allowed|sign-in|set-up|forgotten|join|new-password|leave|confirm|f\/|kept|api|calendar\/\[key\])/;
    const pages = readdirSync(join(import.meta.dirname, '../../src/pages'), { recursive: true, encoding: 'utf8' })
      .filter((file) => /\.(astro|ts)$/.test(file) && !OPEN.test(file))
      .map((file) => `/${file.replace(/(^|\/)index\.astro$/, '').replace(/\.(astro|ts)$/, '')}`);
    expect(pages.length).to.be.greaterThan(40);
    for (const page of pages) expect(pageRight(page), page).not.to.equal(null);
    expect(pageRight('/workflows/0190/results')).to.equal('see-results');
    expect(pageRight('/nothing')).to.equal(null);
    expect(mayOpen('desk', '/workflows?x=1')).to.equal(false);
    expect(mayOpen('desk', '/leads/0190#story')).to.equal(true);
  });
});

describe('what was one colleague’s, handed to another', () => {
  const [ada, bo, cy] = ['01a', '01b', '01c'];

  it('names whoever takes over wherever whoever leaves was named, each once where turns are taken', () => {
    const part = {
      steps: [{ settings: { colleague: ada, among: [ada, bo, cy], note: 'For 01a' } }, ada],
      n: 1,
      no: null,
    };
    expect(handOverIn(part, ada, bo)).to.deep.equal({
      steps: [{ settings: { colleague: bo, among: [bo, cy], note: 'For 01a' } }, bo],
      n: 1,
      no: null,
    });
    expect(part.steps[1]).to.equal(ada);
  });

  it('takes them out of turns where nobody takes over, and leaves them where they alone were meant', () => {
    expect(handOverIn({ colleague: ada, among: [ada, bo] }, ada, null)).to.deep.equal({ colleague: ada, among: [bo] });
  });

  it('leaves lists alone they do not stand in, whatever stands there twice', () => {
    expect(handOverIn({ words: ['a', 'a'], among: [bo, bo] }, ada, cy)).to.deep.equal({
      words: ['a', 'a'],
      among: [bo, bo],
    });
  });
});

describe('a password somebody chooses', () => {
  it('is refused while it is short, common, a row of keys, a date or what is known of them, with what to do', () => {
    for (const [password, why] of [
      ['short', /at least 10/],
      ['password123', /guessed easily/],
      ['qwertyuiop', /guessed easily/],
      ['0123456789', /guessed easily/],
      ['aaaaaaaaaaaa', /guessed easily/],
      ['wrenfield1', /guessed easily/],
      ['nadiaokafor', /guessed easily/],
      ['x'.repeat(257), /at most 256/],
    ] as const)
      expect(
        passwordWeakness(password, ['Nadia Okafor', 'nadia@wrenfield.example', 'Wrenfield Music School']),
        password,
      ).to.match(why);
  });

  it('is taken when it is long and odd enough, in any script', () => {
    for (const password of ['violet tuba harvest', 'Kz7#mQ2!vR9x', 'четыре слова подряд нет', '🎹🎺🎻🥁🎷🎸🪗🪕🎼🎵x9'])
      expect(passwordWeakness(password, ['Nadia Okafor'])).to.equal(null);
  });
});

describe('a link we have signed', () => {
  const secrets = { derive: (purpose: string) => Buffer.from(`key of ${purpose}`) } as unknown as SecretBox;
  const id = '01999999-0000-7000-8000-0000000000ff';

  it('names its row, and opens nothing but what it was made for', () => {
    const token = linkToken(secrets, 'invitation', id, 2);
    expect(token).to.match(/^[\w-]{75}$/);
    expect(idInToken(token)).to.equal(id);
    expect(isOurs(secrets, 'invitation', token, { id, round: 2 })).to.equal(true);
    expect(isOurs(secrets, 'invitation', token, { id, round: 3 })).to.equal(false);
    expect(isOurs(secrets, 'password', token, { id, round: 2 })).to.equal(false);
    expect(isOurs(secrets, 'invitation', token, { id: id.replace('f', 'e'), round: 2 })).to.equal(false);
  });

  it('is none when it was changed, cut or made up', () => {
    const token = linkToken(secrets, 'password', id);
    for (const other of [
      token.slice(0, -1),
      `${token}A`,
      token.replace(/.$/, (last) => (last === 'A' ? 'B' : 'A')),
      '',
      'x'.repeat(75),
      `${'0'.repeat(32)}${token.slice(32)}`,
    ])
      expect(idInToken(other) !== null && isOurs(secrets, 'password', other, { id }), other).to.equal(false);
  });
});

describe('a device, by what its browser calls itself', () => {
  it('is told in words', () => {
    expect(deviceWords('Mozilla/5.0 (Windows NT 10.0; Win64; x64; rv:128.0) Gecko/20100101 Firefox/128.0')).to.equal(
      'Firefox on Windows',
    );
    expect(deviceWords('')).to.equal('An unknown device');
    expect(deviceWords('curl/8.1')).to.equal('curl');
    expect(deviceWords('x'.repeat(5000)).length).to.be.at.most(100);
  });
});
