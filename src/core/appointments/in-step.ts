/** An appointment as it stands in one of the two calendars. Times in milliseconds since 1970. */
export interface Standing {
  title: string;
  start: number;
  end: number;
}

const sameTime = (a: Standing, b: Standing) => a.start === b.start && a.end === b.end;
const same = (a: Standing, b: Standing) => a.title === b.title && sameTime(a, b);

/**
 * What is to be done about an appointment of ours that stands in somebody's own calendar too.
 *
 * @param here as it is with us; null when it is gone
 * @param copy as it was when both were the same
 * @param there as it is in their calendar; null when it was taken out there
 * @param fixed what is agreed elsewhere, as a booking is: their calendar cannot move it
 */
export function inStep(
  here: Standing | null,
  copy: Standing,
  there: Standing | null,
  fixed: boolean,
): 'same' | 'move here' | 'take out here' | 'write there' | 'take out there' {
  if (!here) return there ? 'take out there' : 'same';
  const changedHere = !same(here, copy);
  // Whatever was changed here holds: it is what the lead knows.
  if (changedHere || fixed) return there && same(here, there) ? 'same' : 'write there';
  if (!there) return 'take out here';
  return sameTime(there, copy) ? 'same' : 'move here';
}
