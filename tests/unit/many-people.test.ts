import { expect } from 'chai';
import { makeListLink, readListLink } from '../../src/core/consent/leave-link.ts';
import { choiceOf } from '../../src/core/people/audience.ts';
import { BulkAction, bulkWords } from '../../src/core/people/bulk-action.ts';
import { EVERYBODY, isEverybody, LeadChoice } from '../../src/core/people/lead-choice.ts';
import { LEFT_OUT, leftOutWords } from '../../src/core/people/left-out.ts';

const [A, B] = ['0199b3a0-0000-7000-8000-00000000000a', '0199b3a0-0000-7000-8000-00000000000b'];

describe('what is done with many leads', () => {
  const named = {
    tags: [{ id: A, name: 'Warm' }],
    lists: [{ id: A, name: 'News' }],
    colleagues: [{ id: A, name: 'Tomas' }],
  };
  const words: [BulkAction, string][] = [
    [{ does: 'tag', tag: A }, 'Tag them Warm'],
    [{ does: 'tag', tag: B }, 'Tag them with a tag that is gone'],
    [{ does: 'untag', tag: A }, 'Take the tag Warm off them'],
    [{ does: 'untag', tag: B }, 'Take the tag that is gone off them'],
    [{ does: 'join', list: A, proven: false }, 'Put them on the list News'],
    [{ does: 'join', list: B, proven: false }, 'Put them on the list that is gone'],
    [{ does: 'leave', list: A }, 'Take them off the list News'],
    [{ does: 'leave', list: B }, 'Take them off the list that is gone'],
    [{ does: 'clean', list: A }, 'Clean them from the list News'],
    [{ does: 'clean', list: B }, 'Clean them from the list that is gone'],
    [{ does: 'owner', person: A }, 'Give them to Tomas'],
    [{ does: 'owner', person: B }, 'Give them to a colleague who is gone'],
    [{ does: 'owner', person: null }, 'Give them to nobody'],
    [{ does: 'erase' }, 'Erase them for good'],
  ];
  for (const [action, said] of words) it(said, () => expect(bulkWords(action, named)).to.equal(said));

  it('asks for what is missing', () => {
    const asks = (action: object) => BulkAction.safeParse(action).error?.issues[0]?.message;
    expect(asks({ does: 'tag', tag: '' })).to.equal('Choose a tag');
    expect(asks({ does: 'untag', tag: 'x' })).to.equal('Choose a tag');
    for (const does of ['join', 'leave', 'clean']) expect(asks({ does, list: '' }), does).to.equal('Choose a list');
    expect(BulkAction.parse({ does: 'join', list: A }), 'asked again unless they have agreed').to.deep.include({
      proven: false,
    });
  });
});

describe('which leads are meant', () => {
  it('nothing said is everybody; a list as a whole is all of it', () => {
    expect(EVERYBODY).to.deep.equal({
      ids: null,
      search: '',
      segment: null,
      condition: null,
      list: null,
      tag: null,
      source: null,
    });
    expect(isEverybody(EVERYBODY)).to.equal(true);
    expect(isEverybody({ ...EVERYBODY, search: '  ', list: { id: A, state: null } })).to.equal(true);
  });
  const narrowed: Partial<LeadChoice>[] = [
    { ids: [A] },
    { search: 'ada' },
    { segment: A },
    { condition: { all: [] } },
    { list: { id: A, state: 'active' } },
    { tag: A },
    { source: A },
  ];
  for (const one of narrowed)
    it(`${Object.keys(one)[0]} narrows them`, () => expect(isEverybody({ ...EVERYBODY, ...one })).to.equal(false));
  it('an empty choice by hand is refused, so that nobody ticked never means everybody', () => {
    expect(LeadChoice.safeParse({ ids: [] }).success).to.equal(false);
    expect(LeadChoice.safeParse({ ids: [A] }).success).to.equal(true);
    expect(LeadChoice.safeParse({ search: 'x'.repeat(201) }).success).to.equal(false);
  });
  it('an email to a list goes to those who are on it and have not left; to a tag or segment, to all of it', () => {
    expect(choiceOf({ list: A })).to.deep.equal({ ...EVERYBODY, list: { id: A, state: 'active' } });
    expect(choiceOf({ tag: A })).to.deep.equal({ ...EVERYBODY, tag: A });
    expect(choiceOf({ segment: A })).to.deep.equal({ ...EVERYBODY, segment: A });
  });
  it('whoever is left out is told of by number', () => {
    expect(LEFT_OUT.map((code) => leftOutWords(code, 1))).to.deep.equal([
      '1 has no email address',
      '1 has an address no mail can go to',
      '1 asked for no more emails or no more news',
      '1 wrote something that may mean no more, which nobody has read yet',
      '1 never agreed to it',
      '1 for whom it could not be filled in',
    ]);
    expect(leftOutWords('no_address', 4)).to.equal('4 have no email address');
    expect(leftOutWords('bad_address', 0)).to.equal('0 have an address no mail can go to');
  });
});

describe('the link by which a reader leaves or confirms', () => {
  const key = Buffer.alloc(32, 7);
  it('says whom it is for, and only to whoever asks for its purpose with its key', () => {
    for (const link of [
      { leadId: A, listId: B },
      { leadId: A, listId: null },
    ]) {
      const token = makeListLink(key, 'leave', link);
      expect(token).to.match(/^[\w-]{59}$/);
      expect(readListLink(key, 'leave', token)).to.deep.equal(link);
      expect(readListLink(key, 'confirm', token)).to.equal(null);
      expect(readListLink(Buffer.alloc(32, 8), 'leave', token)).to.equal(null);
    }
  });
  it('is nothing once a single character of it is another, is missing or is added', () => {
    const token = makeListLink(key, 'confirm', { leadId: A, listId: B });
    for (let i = 0; i < token.length; i++) {
      const other = token[i] === 'A' ? 'B' : 'A';
      expect(readListLink(key, 'confirm', token.slice(0, i) + other + token.slice(i + 1)), `${i}`).to.equal(null);
    }
    for (const wrong of ['', token.slice(0, -1), `${token}A`, `${token}=`, `${token} `, 'nonsense'])
      expect(readListLink(key, 'confirm', wrong), wrong).to.equal(null);
  });
});
