import { isWhereKey, WHERE_KEYS, type WhereFrom } from './where-from.ts';

/** Which of a person's touches is meant, in the words it has as a group of fields. */
export const TOUCH_WORDS = {
  first_touch: 'First touch',
  last_touch: 'Last touch',
  booking_touch: 'Touch before booking',
} as const;
export type TouchGroup = keyof typeof TOUCH_WORDS;
export const TOUCH_GROUPS = Object.keys(TOUCH_WORDS) as TouchGroup[];
export const isTouchGroup = (group: string): group is TouchGroup => Object.hasOwn(TOUCH_WORDS, group);

/** What is known of one touch: where from, and when (ISO 8601). Empty where there was none. */
export type TouchValues = WhereFrom & { at?: string };
export type Touches = Record<TouchGroup, TouchValues>;
export const NO_TOUCHES: Touches = { first_touch: {}, last_touch: {}, booking_touch: {} };

/** What can be asked of a touch, with its words. */
export const TOUCH_KEYS: Readonly<Record<string, string>> = { at: 'When', ...WHERE_KEYS };

/** The values of a touch by their keys, without what is empty or unknown. */
export const touchFields = (touch: TouchValues): Record<string, string> =>
  Object.fromEntries(
    Object.entries(touch).filter(
      ([key, value]) => (key === 'at' || isWhereKey(key)) && value !== undefined && value !== '',
    ),
  ) as Record<string, string>;
