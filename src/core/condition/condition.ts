import { z } from 'zod';

/** What can be asked of a field, in the coordinator's words. `takes` says what it is compared with. */
export const TESTS = {
  is: { words: 'is', takes: 'text' },
  is_not: { words: 'is not', takes: 'text' },
  contains: { words: 'contains', takes: 'text' },
  contains_not: { words: 'does not contain', takes: 'text' },
  starts: { words: 'starts with', takes: 'text' },
  ends: { words: 'ends with', takes: 'text' },
  one_of: { words: 'is one of', takes: 'list' },
  none_of: { words: 'is none of', takes: 'list' },
  filled: { words: 'is filled', takes: null },
  empty: { words: 'is empty', takes: null },
  greater: { words: 'is greater than', takes: 'number' },
  less: { words: 'is less than', takes: 'number' },
  between: { words: 'is between', takes: 'two numbers' },
  before: { words: 'is before', takes: 'date' },
  after: { words: 'is after', takes: 'date' },
  in_last: { words: 'is in the last', takes: 'days' },
  valid_email: { words: 'is a valid email', takes: null },
  throw_away: { words: 'is a throw-away email', takes: null },
  valid_mobile: { words: 'is a valid mobile', takes: null },
  has_tag: { words: 'has the tag', takes: 'tag' },
  has_no_tag: { words: 'does not have the tag', takes: 'tag' },
  on_list: { words: 'is on the list', takes: 'members' },
  not_on_list: { words: 'is not on the list', takes: 'members' },
  agreed: { words: 'agreed to', takes: 'channel' },
  not_agreed: { words: 'did not agree to', takes: 'channel' },
  in_sheet: { words: 'is in the sheet', takes: 'column' },
  not_in_sheet: { words: 'is not in the sheet', takes: 'column' },
} as const;
export type TestName = keyof typeof TESTS;
const TEST_NAMES = Object.keys(TESTS) as [TestName, ...TestName[]];

/** Tests that ask about the person as a whole and not about one field. */
export const OF_THE_PERSON: readonly TestName[] = [
  'has_tag',
  'has_no_tag',
  'on_list',
  'not_on_list',
  'agreed',
  'not_agreed',
];

/** One question. `field` is a reference as in a message ("answers.instrument"); empty for questions about the person. */
export const Test = z.object({
  field: z.string().max(200),
  test: z.enum(TEST_NAMES),
  /** Text, number, date, days, or the id of a tag or of "tab/column"; `list`: one per line. */
  value: z.string().max(5000).default(''),
  /** The upper end of "between". */
  to: z.string().max(200).default(''),
  /** Case and outer spaces count only when asked. */
  exact: z.boolean().default(false),
});
export type Test = z.infer<typeof Test>;

export type Condition = Test | { all: Condition[] } | { any: Condition[] };
const MOST = 30;
const DEEPEST = 5;

const shape: z.ZodType<Condition> = z.lazy(() =>
  z.union([
    z.object({ all: z.array(shape).max(MOST) }).strict(),
    z.object({ any: z.array(shape).max(MOST) }).strict(),
    Test,
  ]),
) as z.ZodType<Condition>;

export const depth = (condition: Condition): number =>
  'test' in condition ? 0 : 1 + Math.max(0, ...partsOf(condition).map(depth));

export const Condition = shape.refine((condition) => depth(condition) <= DEEPEST, {
  message: `Conditions can be nested ${DEEPEST} deep at most`,
});

export const partsOf = (group: { all: Condition[] } | { any: Condition[] }): Condition[] =>
  'all' in group ? group.all : group.any;

/** Every single question of a condition, in reading order. */
export const testsOf = (condition: Condition): Test[] =>
  'test' in condition ? [condition] : partsOf(condition).flatMap(testsOf);

/** An empty group lets everybody through. */
export const isBlank = (condition: Condition | null): boolean => condition === null || testsOf(condition).length === 0;
