import { expect } from 'chai';
import google from 'google-libphonenumber';
import { readPhone, storedPhone } from '../../src/core/people/phone.ts';
import { searchWords } from '../../src/core/people/search-words.ts';

const { PhoneNumberUtil, PhoneNumberFormat } = google;
const util = PhoneNumberUtil.getInstance();

/** Judge: google-libphonenumber, an independent port with its own metadata. Source of the rules: ITU-T E.164. */
function judged(typed: string, country: string): string | null {
  try {
    const number = util.parse(typed.normalize('NFKC'), country);
    return util.isPossibleNumber(number) ? util.format(number, PhoneNumberFormat.E164) : null;
  } catch {
    return null;
  }
}

describe('phone numbers against google-libphonenumber', () => {
  const table: [string, string, string | null][] = [
    ['07700 900123', 'GB', '+447700900123'],
    ['+44 (0)7700 900000', 'GB', '+447700900000'],
    ['٠٧٧٠٠ ٩٠٠١٢٣', 'GB', '+447700900123'],
    ['020 7946 0018', 'GB', '+442079460018'],
    ['0121 496 0000', 'GB', '+441214960000'],
    ['212.555.0100', 'CA', '+12125550100'],
    ['0491 570 156', 'AU', '+61491570156'],
    ['(03) 7010 1234', 'AU', '+61370101234'],
    ['06 39 98 12 34', 'FR', '+33639981234'],
    ['020 912 3456', 'IE', '+353209123456'],
    ['030 23125 123', 'DE', '+493023125123'],
    ['070-1740605', 'SE', '+46701740605'],
    ['02 1234 5678', 'IT', '+390212345678'],
    ['011 15-1234-5678', 'AR', '+5491112345678'],
    ['8 (912) 345-67-89', 'RU', '+79123456789'],
    ['+7 727 250 1234', 'RU', '+77272501234'],
    ['+44 1534 460000', 'GB', '+441534460000'],
    ['00 1 212 555 0123', 'GB', '+12125550123'],
    ['011 44 20 7946 0018', 'US', '+442079460018'],
    ['911', 'US', null],
    ['+123456789012345678', 'US', null],
    ['not a number', 'GB', null],
  ];
  it('zeros only are no number: everybody who gives none by them would be one person', () => {
    for (const typed of ['0000 0000', '(000) 000-0000', '+44 0000 000000', '000 000 0000'])
      for (const country of ['GB', 'US', 'DE', 'IT'])
        expect(readPhone(typed, country).ok, `${typed} in ${country}`).to.equal(false);
  });

  for (const [typed, country, e164] of table)
    it(`${typed} in ${country}: ${e164 ?? 'none'}`, () => {
      const ours = readPhone(typed, country);
      expect(ours.ok ? ours.e164 : null).to.equal(e164);
      expect(judged(typed, country), 'the independent library').to.equal(e164);
    });

  it('strips the marks contact apps put around a number, wherever they stand', () => {
    for (const mark of ['\u202a', '\u202c', '\u2066', '\u2069', '\u200e', '\u00ad', '\ufeff'])
      for (const typed of [`${mark}07700 900123${mark}`, `+44${mark}7700900123`, `0${mark}7700 900 123`])
        expect(readPhone(typed, 'GB'), JSON.stringify(typed)).to.include({ e164: '+447700900123' });
  });
  it('keeps an extension beside the number, and reads what it stored', () => {
    const read = readPhone('(212) 555-0123 ext. 45', 'US');
    expect(read).to.include({ ok: true, e164: '+12125550123', extension: '45' });
    const stored = read.ok ? storedPhone(read) : '';
    expect(stored).to.equal('+12125550123 ext. 45');
    expect(readPhone(stored, 'GB')).to.include({ e164: '+12125550123', extension: '45' });
  });
  it('a search finds a stored number in every usual way of writing it', () => {
    const stored = '447700900123';
    for (const typed of [
      '07700 900123',
      '+44 7700 900123',
      '+44 (0)7700 900123',
      '0044 7700 900123',
      '(07700) 900-123',
      '07700.900.123',
      '\u202a+447700900123\u202c',
      '900123',
      '7700 9001',
      '07700 9',
    ])
      expect(stored, typed).to.include(searchWords(typed, 'GB')[0]);
    expect(searchWords('Ines  Wren', 'GB')).to.deep.equal(['Ines', 'Wren']);
    expect(searchWords(' ', 'GB')).to.deep.equal([]);
  });

  it('drops an extension, reads tel: addresses (RFC 3966) and full-width digits', () => {
    expect(readPhone('(212) 555-0123 ext. 45', 'US')).to.include({ e164: '+12125550123' });
    expect(readPhone('tel:+44-7700-900123', 'US')).to.include({ e164: '+447700900123' });
    expect(readPhone('＋４４７７００９００１２３', 'US')).to.include({ e164: '+447700900123' });
  });

  it('takes numbers from ranges set aside for fiction, possible though not valid', () => {
    for (const number of ['07700 900000', '07700 900999'])
      expect(readPhone(number, 'GB')).to.include({ ok: true, valid: false });
  });

  it('tells a landline where the numbering plan does', () => {
    expect(readPhone('0117 496 0009', 'GB')).to.include({ mobile: false });
    expect(readPhone('0491 570 156', 'AU')).to.include({ mobile: true });
    expect(readPhone('212 555 0100', 'US')).to.include({ mobile: null });
  });

  it('says of a number the same whatever was read before it', () => {
    const all = ({ ...reading }: ReturnType<typeof readPhone>) => reading;
    // Of a range no plan gives out, the code alone does not say whether it is Great Britain's or Guernsey's.
    const before = all(readPhone('+447700900777', ''));
    expect(before).to.include({ ok: true, country: null });
    readPhone('07700 900778', 'GB');
    readPhone('07700 900778', 'GG');
    expect(all(readPhone('+447700900778', ''))).to.deep.equal({
      ...before,
      e164: '+447700900778',
      national: '07700 900778',
      international: '+44 7700 900778',
    });
  });
});
