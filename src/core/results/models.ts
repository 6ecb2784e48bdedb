/** How what comes of somebody is credited to the contacts they had before it. */
export const MODELS = ['first', 'last', 'even', 'ends', 'fading'] as const;
export type Model = (typeof MODELS)[number];

/** With their words, and what each of them does in one sentence. */
export const MODEL_WORDS: Readonly<Record<Model, { label: string; short: string; says: string }>> = {
  first: {
    label: 'First touch',
    short: 'First',
    says: 'Everything is credited to what brought the person to you first.',
  },
  last: {
    label: 'Last touch',
    short: 'Last',
    says: 'Everything is credited to the last contact before it happened; what brought the person first gets nothing.',
  },
  even: { label: 'Shared equally', short: 'Equal', says: 'Each contact before it happened gets the same share.' },
  ends: {
    label: 'First and last weighted',
    short: 'Weighted',
    says: 'The first and the last contact get 40 % each; those between them share the other 20 %.',
  },
  fading: {
    label: 'Fading with time',
    short: 'Fading',
    says: 'Each contact gets a share that halves with every week that lies between it and what happened.',
  },
};

const DAY_MS = 86_400_000;
/** Common practice, no source. */
const HALVES_IN_MS = 7 * DAY_MS;
/** Common practice, no source. */
const END_SHARE = 0.4;

/**
 * The weight of each touch for something that happened after them. `touches` are instants in milliseconds, the earliest first; at least one. When it
 * happened makes no difference: what fades, fades for all of them alike.
 */
export function weightsOf(model: Model, touches: readonly number[]): number[] {
  const last = touches.length - 1;
  switch (model) {
    case 'first':
      return touches.map((_, i) => (i === 0 ? 1 : 0));
    case 'last':
      return touches.map((_, i) => (i === last ? 1 : 0));
    case 'even':
      return touches.map(() => 1);
    case 'ends':
      if (last < 2) return touches.map(() => 1);
      return touches.map((_, i) => (i === 0 || i === last ? END_SHARE : (1 - 2 * END_SHARE) / (last - 1)));
    case 'fading': {
      // Counted from the latest, so that two contacts of years ago still have weights: only their ratio matters.
      const nearest = touches[last]!;
      return touches.map((touch) => 2 ** (-(nearest - touch) / HALVES_IN_MS));
    }
  }
}
