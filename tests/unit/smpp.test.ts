import { expect } from 'chai';
import { type HandedOver, joined, kindOf, partOf, receiptOf, sameIds } from '../../src/core/message/smpp/incoming.ts';
import { outgoingParts, smppAddress, writtenBy } from '../../src/core/message/smpp/outgoing.ts';
import { sortSmppStatus } from '../../src/core/message/smpp/status.ts';
import { cutText, measureText } from '../../src/core/message/text-segments.ts';

const brought = (more: Partial<HandedOver>): HandedOver => ({
  ...{ esmClass: 0, from: '+447700900142', to: '+447700900151', text: '', header: [], sar: null },
  ...{ receiptedId: null, messageState: null },
  ...more,
});

describe('what SMPP says', () => {
  it('a receipt is read from its text (SMPP 3.4 appendix B) or from its own fields, whichever there are', () => {
    const text =
      'id:0123456789 sub:001 dlvrd:001 submit date:0610111530 done date:0610111531 stat:DELIVRD err:000 Text:Hello id:9';
    expect(receiptOf(brought({ esmClass: 4, text }))).to.deep.equal({
      id: '0123456789',
      is: 'delivered',
      detail: 'Delivered to the phone',
    });
    expect(receiptOf(brought({ esmClass: 4, text: 'nothing said', receiptedId: 'A7', messageState: 5 }))).to.deep.equal(
      { id: 'A7', is: 'not delivered', detail: 'It cannot be delivered' },
    );
    expect(receiptOf(brought({ esmClass: 4, text: 'id:7 stat:UNDELIVERABLE err:0041' }))).to.deep.include({
      is: 'not delivered',
      detail: 'It cannot be delivered (the carrier’s error 0041)',
    });
    for (const stat of ['ENROUTE', 'ACCEPTD', 'UNKNOWN', 'SOMETHING'])
      expect(receiptOf(brought({ esmClass: 4, text: `id:7 stat:${stat}` }))?.is, stat).to.equal('on its way');
    expect(receiptOf(brought({ esmClass: 4, text: 'sub:001' }))).to.equal(null);
  });

  it('what is told of a text is never taken for one that somebody wrote', () => {
    expect(kindOf(brought({}))).to.equal('text');
    // A user data header, a reply path: still a text.
    expect(kindOf(brought({ esmClass: 0xc0 }))).to.equal('text');
    expect(kindOf(brought({ esmClass: 0x04 }))).to.equal('receipt');
    expect(kindOf(brought({ receiptedId: '7' }))).to.equal('receipt');
    for (const esmClass of [0x08, 0x10, 0x18, 0x20])
      expect(kindOf(brought({ esmClass })), `${esmClass}`).to.equal('nothing');
  });

  it('parts name their text by 8 bits, 16 bits or fields of their own; what makes no sense is whole', () => {
    const of = (...bytes: number[]) => partOf(brought({ header: [Uint8Array.from(bytes)] }));
    expect(of(0, 3, 42, 3, 2)).to.deep.equal({ reference: '8:42', total: 3, number: 2 });
    expect(of(8, 4, 1, 2, 3, 1)).to.deep.equal({ reference: '16:258', total: 3, number: 1 });
    expect(partOf(brought({ sar: { reference: 9, total: 2, number: 2 } }))).to.deep.equal({
      reference: 'sar:9',
      total: 2,
      number: 2,
    });
    for (const nonsense of [[0, 3, 1, 0, 0], [0, 3, 1, 2, 3], [0, 3, 1, 1, 1], [0, 3, 1], [5, 4, 0, 0, 0, 0], []])
      expect(of(...nonsense), nonsense.join()).to.equal(null);
    expect(joined([{ number: 2, text: 'two' }], 4)).to.equal('[…] two […]');
  });

  it('the same name in hexadecimal and in decimal is found', () => {
    expect(sameIds('4091')).to.include.members(['4091', 'ffb', 'FFB']);
    expect(sameIds('FFB')).to.include('4091');
    expect(sameIds('0000012')).to.include('12');
    expect(sameIds('not-a-number')).to.deep.equal(['not-a-number']);
  });

  it('numbers and names are written as the protocol has them, and read as we have them', () => {
    expect(smppAddress('+447700900142')).to.deep.equal({ ton: 1, npi: 1, address: '447700900142' });
    expect(smppAddress('Wrenfield')).to.deep.equal({ ton: 5, npi: 0, address: 'Wrenfield' });
    expect(smppAddress('60777')).to.deep.equal({ ton: 3, npi: 0, address: '60777' });
    expect(writtenBy({ ton: 1, address: '447700900142' })).to.equal('+447700900142');
    expect(writtenBy({ ton: 0, address: '447700900142' })).to.equal('+447700900142');
    expect(writtenBy({ ton: 0, address: '07700900142' })).to.equal('07700900142');
    expect(writtenBy({ ton: 5, address: 'Bank' })).to.equal('Bank');
  });

  it('every status there is comes to an answer, and only zero is taken', () => {
    for (let status = 0; status <= 0x500; status++) {
      const { kind } = sortSmppStatus(status, 'x');
      expect(kind === 'accepted', `${status}`).to.equal(status === 0);
      expect(kind, `${status}`).to.not.equal('unsure');
    }
  });

  it('texts cut into parts are whole again, as many as were counted, none longer than a part holds', () => {
    const pieces = ['a', '€', 'ß', '{', '🎺', 'ж', ' ', 'word ', '\n', 'é'];
    let seed = 7;
    const next = (n: number) => {
      seed = (seed * 48271) % 2147483647;
      return seed % n;
    };
    for (let round = 0; round < 400; round++) {
      const some = pieces.slice(0, 1 + next(pieces.length));
      const text = Array.from({ length: next(260) }, () => some[next(some.length)]).join('');
      const { encoding, parts } = outgoingParts(text, 'gsm');
      expect(parts.join('')).to.equal(text);
      expect(parts.length).to.equal(measureText(text).parts);
      const most = encoding === 'GSM-7' ? [160, 153] : [70, 67];
      for (const part of parts)
        expect(measureText(part).encoding === encoding ? measureText(part).units : part.length).to.be.at.most(
          parts.length === 1 ? most[0]! : most[1]!,
        );
      expect(cutText(text, 'Latin-1').parts.join('')).to.equal(text);
    }
  });
});
