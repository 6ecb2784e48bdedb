import type { AdPlatformDesk } from './ad-platform.ts';
import { CALENDARS, type CalendarDesk } from './booking-calendar.ts';
import type { ChatNetwork } from './chat-network.ts';
import { FUNNELS, type FunnelDesk } from './funnel-host.ts';
import { GOODS, type ShopDesk } from './shop.ts';
import { someoneNew } from './someone-new.ts';
import type { World } from './world.ts';
import type { AdForm } from './world-state.ts';

interface Parts {
  world: World;
  ads: AdPlatformDesk;
  funnels: FunnelDesk;
  shop: ShopDesk;
  calendar: CalendarDesk;
  chat: ChatNetwork;
}

/** Milliseconds: until the first, between those that show every way in once, and at least between all others, which may take as long again. */
const FIRST = 15_000;
const BEGINNING = 12_000;
const QUIET = 75_000;
const QUESTIONS = [
  'Hello, is there a place for guitar?',
  'Do you teach adults in the evening?',
  'How much is a trial lesson?',
];

const pick = <T>(list: readonly T[]): T => list[Math.floor(Math.random() * list.length)]!;

/** Made-up people who come in by themselves while the demo runs: a few at the beginning, by every way, then one every minute or two. */
export class Trickle {
  private timer: NodeJS.Timeout | null = null;
  private count = 0;

  constructor(
    private readonly parts: Parts,
    /** Whoever is to be told; nobody comes before it answers. */
    private readonly toldAt: string,
  ) {
    this.wait(FIRST);
  }

  private wait(ms: number): void {
    this.timer = setTimeout(() => {
      const done = this.parts.world.state.trickle ? this.comes() : Promise.resolve();
      // Whoever is to be told may be away: the next comes all the same.
      void done.catch(() => {}).then(() => this.wait(this.count < 7 ? BEGINNING : QUIET * (1 + Math.random())));
    }, ms);
    this.timer.unref();
  }

  private async comes(): Promise<void> {
    const there = await fetch(`${this.toldAt}/sign-in`, { signal: AbortSignal.timeout(3000) }).then(
      ({ ok }) => ok,
      () => false,
    );
    if (there) await this.one();
  }

  stop(): void {
    if (this.timer) clearTimeout(this.timer);
  }

  /** One more person, by the next of the ways; the ad forms twice as often as the others. */
  private async one(): Promise<void> {
    const { world, ads, funnels, shop, calendar, chat } = this.parts;
    const who = someoneNew();
    const name = `${who.first} ${who.last}`;
    const person = { first_name: who.first, last_name: who.last, email: who.email, phone: who.phone };
    const way = this.count++ % 7;
    if (way === 1)
      await funnels.visit(
        FUNNELS[0]!.steps[0]!.id,
        { ...person, consent: 'true', consent_wording: 'Send me practice tips' },
        false,
      );
    else if (way === 3) {
      await shop.signUp({ ...person, accepts_marketing: Math.random() < 0.8 });
      const { id } = world.state.customers.at(-1)!;
      await shop.order(id, [{ sku: pick(GOODS).sku, quantity: 1 }]);
    } else if (way === 4) {
      const start = new Date(Date.now() + (1 + Math.floor(Math.random() * 6)) * 86_400_000);
      start.setUTCHours(10 + Math.floor(Math.random() * 7), 0, 0, 0);
      await calendar.book({
        calendar: pick(CALENDARS).id,
        title: 'Trial lesson',
        start: start.toISOString(),
        end: new Date(start.getTime() + 1_800_000).toISOString(),
        bookedBy: 'self',
        person: { name, email: who.email, phone: who.phone },
      });
    } else if (way === 5)
      await chat.writeFrom(`+44${who.phone.replace(/\D/g, '').slice(1)}`, pick(QUESTIONS), { button: false, name });
    else {
      const form = way === 2 ? pick(world.state.forms) : world.state.forms[0]!;
      await ads.fillIn(form, answersTo(form, { ...person, full_name: name, name, mobile: who.phone }));
    }
  }
}

/** What somebody answers to a form: their own details by the key of the question, any of what there is to choose from, and nearly always yes. */
function answersTo({ questions }: AdForm, known: Record<string, string>): Record<string, string> {
  return Object.fromEntries(
    questions.map(({ key, kind, ...question }) => {
      const choices = 'choices' in question ? (question.choices as string[] | undefined) : undefined;
      if (kind === 'tick') return [key, Math.random() < 0.9 ? 'true' : 'false'];
      return [
        key,
        choices
          ? pick(choices)
          : (known[key] ?? (kind === 'email' ? known.email! : kind === 'phone' ? known.phone! : known.full_name!)),
      ];
    }),
  );
}
