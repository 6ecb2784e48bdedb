import { expect } from 'chai';
import { mayNotText } from '../../src/core/message/may-text.ts';
import { readPhone } from '../../src/core/people/phone.ts';
import { allConsents, messageScope, readingScope, startContext } from '../../src/core/workflow/run-context.ts';
import { failureStack, failureWords } from '../../src/failure-words.ts';
import { isDatabaseAway } from '../../src/web/database-away.ts';
import { pathOfOurs } from '../../src/web/path-of-ours.ts';

describe('what is written to the log', () => {
  const failed = Object.assign(new Error(`insert into "lead" values ('ada@example.org') - duplicate key`), {
    ...{ code: '23505', table: 'lead', constraint: 'lead_pkey', detail: 'Key (email)=(ada@example.org) exists.' },
  });
  it('holds no value of a statement that failed', () => {
    for (const words of [failureWords(failed), failureStack(failed)]) {
      expect(words).to.contain('database error 23505 (table lead, constraint lead_pkey)');
      expect(words).to.not.contain('ada@');
    }
  });
  it('tells everything else as it is', () => {
    expect(failureWords(new Error('no such host'))).to.equal('no such host');
    expect(failureWords(Object.assign(new Error('read'), { code: 'ECONNRESET' }))).to.equal('read');
    expect(failureStack(new Error('x'))).to.match(/^Error: x\n\s+at /);
  });
});

describe('whether the database is away', () => {
  for (const code of ['57P01', '57P03', '08006', '53100', '53300', 'ECONNREFUSED'])
    it(`${code} says so, also as the cause of something else`, () => {
      const error = Object.assign(new Error('x'), { code });
      expect(isDatabaseAway(error)).to.equal(true);
      expect(isDatabaseAway(new Error('wrapped', { cause: error }))).to.equal(true);
    });
  it('a row that is there already does not', () => {
    expect(isDatabaseAway(Object.assign(new Error('x'), { code: '23505' }))).to.equal(false);
    expect(isDatabaseAway(null)).to.equal(false);
  });
});

describe('where a sign-in leads on to', () => {
  it('is a path of ours as it stands, or the beginning', () => {
    expect(pathOfOurs('/leads?search=a#b')).to.equal('/leads?search=a#b');
    for (const away of [
      null,
      '',
      'leads',
      '//evil.example',
      '/\t/evil.example',
      '/\\evil.example',
      '/.//evil.example',
      'https://evil.example/',
    ])
      expect(pathOfOurs(away), String(away)).to.equal('/');
  });
});

describe('what somebody typed, put into words', () => {
  const long = 'word '.repeat(2000).trim();
  const known = { first_name: 'Ada', last_name: 'B'.repeat(500), email: 'ada@example.org', phone: '' };
  const context = startContext({ person: known, answers: { message: long } }, known, {
    where: {},
    business: { name: 'B', country: 'GB', timeZone: 'UTC', holidays: [] },
    source: { name: 'S' },
    consent: allConsents({}),
  });
  it('is cut in a message to a lead, and never in what colleagues are told', () => {
    expect(messageScope(context, 0).answers.message!.length).to.equal(500);
    expect(messageScope(context, 0).lead.last_name!.length).to.equal(60);
    expect(messageScope(context, 0, 5000).answers.message!.length).to.equal(5000);
    expect(readingScope(context, 0).answers.message).to.equal(long);
  });
});

/** Numbers of ranges as the numbering plans give them: Ofcom's National Telephone Numbering Plan for 09, 03 and 07700 900, ITU-T E.164 for 881. */
describe('numbers that are texted', () => {
  const why = (number: string, countries?: string[]) => {
    const phone = readPhone(number, 'GB');
    if (!phone.ok) throw new Error(number);
    return mayNotText(phone, countries)?.code ?? null;
  };
  for (const [number, code] of [
    ['+449098790123', 'never_texted'],
    ['+443001234567', 'never_texted'],
    ['+881612345678', 'never_texted'],
    ['+979123456789', 'never_texted'],
    ['+447700900123', null],
    ['+33612345678', 'other_country'],
  ] as const)
    it(`${number}: ${code ?? 'goes'}`, () => expect(why(number, ['GB'])).to.equal(code));
  it('anywhere, where nothing was chosen; nowhere dear even then', () => {
    expect(why('+33612345678')).to.equal(null);
    expect(why('+449098790123')).to.equal('never_texted');
  });
});
