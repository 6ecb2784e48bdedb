/** Why a sample is kept out: it is an arrival only to be looked at. */
export const SAMPLE = 'Fetched as a sample; it starts nothing.';
