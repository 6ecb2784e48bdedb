import type { Description } from '../../src/core/described/description.ts';
import { HIDDEN } from '../../src/core/described/request.ts';
import type { DescribedKind } from '../../src/core/described/works.ts';
import type { DescribedAccount, DescribedCaller, Shown } from '../../src/gateways/described/described-caller.ts';

/** One thing a service was held to. `skipped`: it could not be asked with what is known, or would change something there. */
export interface Held {
  what: string;
  came: 'good' | 'bad' | 'skipped';
  detail: string;
}

export interface HoldTo {
  description: Description;
  kind: DescribedKind;
  /** What is filled in for the account. */
  values: Record<string, string>;
  /** What calls are given, by name. */
  given: Record<string, string>;
  /** Messages are sent and records made: for an account that is there for that. */
  writes: boolean;
  caller: DescribedCaller;
}

const TWICE = '01999999-0000-7000-8000-';

/** Holds a service to its description: what its calls promise is tried, as far as nothing is changed there that was not allowed. */
export async function holdDescription({ description, kind, values, given, writes, caller }: HoldTo): Promise<Held[]> {
  const held: Held[] = [];
  const account: DescribedAccount = { connectionId: 'contract', who: 'The service', description, values };
  const note = (what: string, came: Held['came'], detail: string): void => {
    held.push({ what, came, detail });
  };
  const good = (what: string, is: boolean, shown: Shown | null, detail = '') =>
    note(what, is ? 'good' : 'bad', detail || (shown ? told(shown) : ''));
  const run = (call: string, more: Record<string, string> = {}, of = account) =>
    caller.show(of, call, { ...given, ...more });
  const { calls, records, lookUps, fetches } = description;

  if (calls.account) {
    const first = await run('account');
    good(
      'account: the key opens the account, and what it is called is read',
      first.answer.kind === 'accepted' && Boolean(first.values.name),
      first,
    );
    const wrong = Object.fromEntries(
      description.asks.filter(({ secret }) => secret).map(({ key }) => [key, 'not-the-key']),
    );
    if (Object.keys(wrong).length > 0) {
      const refused = await run('account', {}, { ...account, values: { ...values, ...wrong } });
      good('account: another key does not', refused.answer.kind === 'refused', refused);
      good(
        'account: nothing secret is shown',
        !JSON.stringify(first.sent).includes(longest(description, values)) || longest(description, values) === '',
        null,
        HIDDEN,
      );
    }
  }
  for (const { call, takes, label } of lookUps) {
    if (!takes.every(({ key }) => given[key])) {
      note(`${label}: is asked`, 'skipped', `say what by: ${takes.map(({ key }) => `--given ${key}=…`).join(' ')}`);
      continue;
    }
    const found = await run(call);
    good(`${label}: is answered`, found.answer.kind === 'accepted', found);
    const nobody = await run(call, Object.fromEntries(takes.map(({ key }) => [key, 'nobody-at-all.example'])));
    const nothing =
      nobody.answer.kind === 'accepted'
        ? nobody.items.every((one) => Object.values(one).every((value) => !value)) || nobody.items.length === 0
        : nobody.answer.kind === 'refused';
    good(`${label}: of somebody unknown nothing is found`, nothing, nobody);
  }
  for (const { call, label } of fetches) {
    const first = await run(call);
    const ids = first.items.map(({ id }) => id);
    good(
      `${label}: is fetched, each with an id of its own`,
      first.answer.kind === 'accepted' && ids.every(Boolean) && new Set(ids).size === ids.length,
      first,
      `${ids.length} came`,
    );
    if (first.next) {
      const second = await run(call, first.next);
      const again = second.items.filter(({ id }) => ids.includes(id));
      good(
        `${label}: the next page brings others`,
        second.answer.kind === 'accepted' && again.length === 0,
        second,
        `${second.items.length} came, ${again.length} for the second time`,
      );
    }
  }
  for (const { label, find, create, update, takes } of records) {
    if (find) {
      const nobody = await run(find, Object.fromEntries(takes.map(({ key }) => [key, 'nobody@nobody-at-all.example'])));
      const none =
        nobody.answer.kind === 'accepted'
          ? nobody.items.length === 0 && !nobody.values.id
          : nobody.answer.kind === 'refused';
      good(`${label}: somebody unknown is not found`, none, nobody);
    }
    if (!writes || !takes.every(({ key, needed }) => !needed || given[key])) {
      note(`${label}: is made, found and brought up to date`, 'skipped', 'with --write, and --given for what it takes');
      continue;
    }
    const made = await run(create, { reference: `${TWICE}000000000001` });
    const id = made.answer.kind === 'accepted' ? (made.answer.remoteId ?? '') : '';
    good(
      `${label}: is made${calls[create]!.reads.id ? ' and says its id' : ''}`,
      made.answer.kind === 'accepted' && (id !== '' || !calls[create]!.reads.id),
      made,
    );
    if (find && id) {
      const found = await run(find);
      const ids = calls[find]!.items === '' ? [found.values.id] : found.items.map((one) => one.id);
      good(`${label}: is found by what it was made with`, ids.includes(id), found, ids.join(', '));
    }
    if (update && id) {
      const changed = await run(update, { id });
      good(`${label}: is brought up to date`, changed.answer.kind === 'accepted', changed);
    }
  }
  if (kind === 'text_carrier' || kind === 'chat_network') await holdSending();
  return held;

  async function holdSending(): Promise<void> {
    if (calls.look) {
      const never = await run('look', { reference: `${TWICE}999999999999` });
      const ids = calls.look.items === '' ? [never.values.id] : never.items.map((one) => one.id);
      good(
        'look: of a message that was never sent nothing is known',
        never.answer.kind === 'accepted' ? ids.every((one) => !one) : never.answer.kind === 'refused',
        never,
      );
    }
    if (!writes || !given.to)
      return note('send: a message is taken', 'skipped', 'with --write --given to=… --given from=… --given text=…');
    const reference = `${TWICE}000000000002`;
    const first = await run('send', { reference });
    good('send: a message is taken', first.answer.kind === 'accepted', first);
    if (calls.send?.again === 'by-key') {
      const second = await run('send', { reference });
      const same =
        first.answer.kind === 'accepted' &&
        second.answer.kind === 'accepted' &&
        first.answer.remoteId === second.answer.remoteId;
      good('send: with the same key it is the same message', same, second);
    }
    if (calls.look && first.answer.kind === 'accepted') {
      const looked = await run('look', { reference });
      const ids = calls.look.items === '' ? [looked.values.id] : looked.items.map((one) => one.id);
      good('look: it is known by our key', ids.includes(first.answer.remoteId), looked);
    }
    const nowhere = await run('send', { reference: `${TWICE}000000000003`, to: 'nowhere' });
    good('send: to what is no number is refused for good', nowhere.answer.kind === 'refused', nowhere);
  }
}

const told = ({ answer, reply }: Shown) => `${answer.kind}: ${answer.detail}${reply ? ` (${reply.status})` : ''}`;
const longest = ({ asks }: Description, values: Record<string, string>) =>
  asks
    .filter(({ secret }) => secret)
    .map(({ key }) => values[key] ?? '')
    .sort((a, b) => b.length - a.length)[0] ?? '';
