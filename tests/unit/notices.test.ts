import { expect } from 'chai';
import fc from 'fast-check';
import { NOTICE_KINDS, type NoticeKind, noticesOf, type SinceThen } from '../../src/core/notices/notices.ts';

const ALL = new Set(Object.keys(NOTICE_KINDS) as NoticeKind[]);
const since = (more: Partial<SinceThen>): SinceThen => ({
  leads: { total: 0, newest: [] },
  conversations: { total: 0, newest: [] },
  needs: { total: 0, newest: [] },
  ...more,
});
const leads = (...names: string[]) => ({
  total: names.length,
  newest: names.slice(0, 3).map((name) => ({ id: name, name, source: 'Trial lesson form' })),
});

describe('what a device is told', () => {
  it('names one, counts several, and is nothing where nothing came', () => {
    expect(noticesOf(since({}), ALL)).to.deep.equal([]);
    expect(noticesOf(since({ leads: leads('Nadia Okoye') }), ALL)).to.deep.equal([
      { title: 'New lead: Nadia Okoye', body: 'Trial lesson form', url: '/leads/Nadia Okoye', tag: 'leads' },
    ]);
    const [two] = noticesOf(since({ leads: leads('Nadia', 'Bram') }), ALL);
    expect(two).to.include({ title: '2 new leads', body: 'Nadia and Bram', url: '/leads' });
    const [many] = noticesOf(since({ leads: { ...leads('Nadia', 'Bram', 'Ida'), total: 40 } }), ALL);
    expect(many).to.include({ title: '40 new leads', body: 'Nadia, Bram and 38 more' });
  });
  it('tells what was written, and only of what is wanted', () => {
    const conversations = { total: 1, newest: [{ id: 'c', name: 'Bram', text: 'Could we\nmake it\tTuesday?' }] };
    const needs = { total: 2, newest: [{ title: 'Text refused' }] };
    expect(noticesOf(since({ conversations, needs }), ALL)).to.deep.equal([
      { title: 'Bram wrote', body: 'Could we make it Tuesday?', url: '/conversations?open=c', tag: 'conversations' },
      { title: '2 things need you', body: 'Text refused', url: '/#needs-you', tag: 'needs' },
    ]);
    expect(noticesOf(since({ conversations, needs }), new Set(['needs']))).to.have.length(1);
  });
  it('never is longer than one push may be (RFC 8291 §4), whatever people are called', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 3000 }), fc.nat(5), (text, more) => {
        const one = { total: 1 + more, newest: [{ id: 'c', name: text, text, source: text, title: text }] };
        for (const notice of noticesOf({ leads: one, conversations: one, needs: one }, ALL))
          expect(Buffer.byteLength(JSON.stringify(notice))).to.be.lessThan(3993);
      }),
    );
  });
});
