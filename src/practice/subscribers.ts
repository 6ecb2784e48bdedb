import { randomUUID } from 'node:crypto';
import { type Signing, signedPost } from './signed-post.ts';
import type { World } from './world.ts';
import type { Push, ServiceName, Subscription } from './world-state.ts';

/** What a service tells its subscribers. */
export interface Happening {
  service: ServiceName;
  /** The topics it belongs to; a subscription to any of them, or to all, is told. */
  topics: string[];
  event: string;
  /** The same for every attempt. */
  eventId: string;
  subject: string;
  value: unknown;
}

const SIGNING: Record<ServiceName, Signing> = {
  ads: 'standard-webhooks',
  funnels: 'standard-webhooks',
  calendar: 'standard-webhooks',
  shop: 'body-hmac',
};

/** Who wants to be told what, and what they answered. */
export class Subscribers {
  constructor(private readonly world: World) {}

  /** One subscription for each address: asking again replaces what was asked before. Null when something is missing. */
  add(service: ServiceName, topics: string[], events: unknown, url: unknown, secret: unknown): Subscription | null {
    if (typeof url !== 'string' || !/^https?:\/\//.test(url) || typeof secret !== 'string') return null;
    const { state } = this.world;
    const made = topics.map((topic) => ({
      id: randomUUID(),
      service,
      topic,
      events: Array.isArray(events) ? events.map(String) : null,
      url,
      secret,
    }));
    // A new secret at the same place is a new address too: what pointed there under another key is let go by its owner.
    state.subscriptions = [...state.subscriptions.filter((subscription) => subscription.url !== url), ...made];
    this.world.changed();
    return made[0] ?? null;
  }

  /** Tells everybody who asked; gives what came back. */
  async tell(happening: Happening, twice = false): Promise<Push[]> {
    const to = this.world.state.subscriptions.filter(
      (subscription) =>
        subscription.service === happening.service &&
        (subscription.topic === '' || happening.topics.includes(subscription.topic)) &&
        (subscription.events === null || subscription.events.includes(happening.event)),
    );
    const pushes = await Promise.all(to.map((subscription) => this.push(happening, subscription)));
    if (twice) await Promise.all(to.map((subscription) => this.push(happening, subscription)));
    return pushes;
  }

  /** Sends what was sent once more, as it was. */
  async again(pushId: string): Promise<Push | null> {
    const { pushes, subscriptions } = this.world.state;
    const push = pushes.find((push) => push.id === pushId);
    const subscription = subscriptions.find((subscription) => subscription.id === push?.subscriptionId);
    return push && subscription ? this.push({ ...push, topics: [push.topic] }, subscription) : null;
  }

  private async push(happening: Happening, subscription: Subscription): Promise<Push> {
    const { trouble } = this.world.state;
    const { service, event, eventId, subject, value } = happening;
    const spoil =
      service === 'ads' ? trouble.adsWrongSignature : service === 'shop' ? trouble.shopWrongSignature : false;
    const result = await signedPost(subscription, { id: eventId, event, value }, SIGNING[service], spoil);
    const made: Push = {
      id: randomUUID(),
      service,
      subject,
      topic: happening.topics[0] ?? '',
      event,
      eventId,
      value,
      subscriptionId: subscription.id,
      who: new URL(subscription.url).host,
      at: new Date().toISOString(),
      ms: result.ms,
      status: result.status,
      answer: result.body.slice(0, 500),
    };
    this.world.state.pushes.push(made);
    this.world.changed();
    return made;
  }
}

/** What a service works with that tells others of what happens at it. */
export interface Telling {
  world: World;
  subscribers: Subscribers;
  /** The key its account is opened by. */
  token: string;
}
