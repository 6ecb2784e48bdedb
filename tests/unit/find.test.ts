import { expect } from 'chai';
import type { Found } from '../../src/app/find/find.ts';
import type { Role } from '../../src/core/people/rights.ts';
import { deedsFor, readQuery } from '../../src/islands/find/deeds.ts';

const found = (name: string, more: Partial<Found> = {}): Found => ({
  ...{
    kind: 'workflow',
    id: `id-${name}`,
    name,
    about: '',
    state: 'live',
    href: `/workflows/id-${name}`,
    conversation: null,
  },
  ...more,
});
const who = { role: 'owner' as Role, help: [{ href: '/help/leads', name: 'Leads and who they are' }] };
const words = (typed: string, things: Found[], as = who) =>
  deedsFor(typed, things, as).map(({ name, deeds }) => [name, ...deeds.map((deed) => deed.words)]);

describe('find and do', () => {
  it('reads what is to be done off the front of what is typed, and leaves a name that only begins so', () => {
    expect(readQuery('pause  trial lesson')).to.deep.equal({ name: 'trial lesson', verb: 'pause' });
    expect(readQuery('Log of Trial')).to.deep.equal({ name: 'Trial', verb: 'log' });
    expect(readQuery('go on with camp')).to.deep.equal({ name: 'camp', verb: 'resume' });
    expect(readQuery('pauses')).to.deep.equal({ name: 'pauses', verb: null });
    expect(readQuery('  ')).to.deep.equal({ name: '', verb: null });
  });

  it('puts the deed first, and only where it makes sense and may be done', () => {
    const both = [found('Trial lesson'), found('Trial camp', { state: 'paused' })];
    expect(words('pause trial', both)[0]).to.deep.equal(['Do', 'Pause “Trial lesson”']);
    expect(words('resume trial', both)[0]).to.deep.equal(['Do', 'Go on with “Trial camp”']);
    expect(words('pause trial', both, { ...who, role: 'viewer' })[0]![0]).to.equal('Workflows');
    expect(words('log trial', both, { ...who, role: 'viewer' })[0]).to.deep.equal([
      ...['Do', 'Log of “Trial lesson”', 'Log of “Trial camp”'],
    ]);
  });

  it('finds views by what others call them, what can be begun, help and the list of keys', () => {
    expect(words('inbox', [])).to.deep.equal([['Views', 'Conversations']]);
    expect(words('new so', [])).to.deep.equal([['Begin', 'New source']]);
    expect(words('leads', []).at(-1)).to.deep.equal(['Help', 'Leads and who they are']);
    expect(words('shortcuts', [])).to.deep.equal([['Help', 'Keyboard shortcuts']]);
    expect(words('new one', [], { ...who, role: 'viewer' })).to.deep.equal([]);
    expect(words('xyzzy', [])).to.deep.equal([]);
  });

  it('leads to a lead and to what was written with them', () => {
    const lead = found('Nadia Okafor', {
      kind: 'lead',
      state: null,
      href: '/leads/1',
      conversation: '/conversations?open=2',
    });
    expect(words('nad', [lead])).to.deep.equal([['Leads', 'Nadia Okafor', 'Conversation with Nadia Okafor']]);
  });
});
