/** What a carrier hands over by SMPP, as far as it is understood. */
export interface HandedOver {
  /** Lower six bits of esm_class say what it is (SMPP 3.4 §5.2.12). */
  esmClass: number;
  from: string;
  to: string;
  text: string;
  /** The elements of the user data header. */
  header: readonly Uint8Array[];
  /** sar_msg_ref_num, sar_total_segments and sar_segment_seqnum, where it cuts texts by these. */
  sar: { reference: number; total: number; number: number } | null;
  /** receipted_message_id and message_state, where it says so apart from the text. */
  receiptedId: string | null;
  messageState: number | null;
}

export interface Receipt {
  /** What the carrier calls the text. */
  id: string;
  is: 'delivered' | 'not delivered' | 'on its way';
  detail: string;
}

/** The message_state of §5.2.28, with how a receipt's text abbreviates it (appendix B). */
const STATES = [
  [1, 'ENROUTE', 'on its way', ''],
  [2, 'DELIVRD', 'delivered', 'Delivered to the phone'],
  [3, 'EXPIRED', 'not delivered', 'It could not be delivered in time'],
  [4, 'DELETED', 'not delivered', 'The carrier deleted it'],
  [5, 'UNDELIV', 'not delivered', 'It cannot be delivered'],
  [6, 'ACCEPTD', 'on its way', ''],
  [7, 'UNKNOWN', 'on its way', ''],
  [8, 'REJECTD', 'not delivered', 'It was refused on the way'],
] as const;

/** What is between the name of a field of a receipt and the next blank. */
const inReceipt = (text: string, name: string): string | null =>
  new RegExp(`(?:^|\\s)${name}:\\s?(\\S{1,65})`, 'i').exec(text)?.[1] ?? null;

/** Bits 5 to 2 of esm_class say what it is (§5.2.12): 0000 somebody's text, 0001 a receipt; everything else tells of one that is on its way. */
export function kindOf({ esmClass, receiptedId }: HandedOver): 'text' | 'receipt' | 'nothing' {
  const bits = (esmClass >> 2) & 0xf;
  // Not marked as one by every carrier.
  if (bits === 1 || (bits === 0 && receiptedId)) return 'receipt';
  return bits === 0 ? 'text' : 'nothing';
}

/** What a receipt tells of a text of ours; null for one that names none. */
export function receiptOf(got: HandedOver): Receipt | null {
  const id = got.receiptedId?.trim() || inReceipt(got.text, 'id');
  if (!id) return null;
  const named = inReceipt(got.text, 'stat')?.toUpperCase();
  // Some write more letters than seven: UNDELIVERABLE.
  const state =
    STATES.find(([number]) => number === got.messageState) ?? STATES.find(([, short]) => named?.startsWith(short));
  if (!state) return { id, is: 'on its way', detail: '' };
  const error = inReceipt(got.text, 'err');
  const [, , is, detail] = state;
  const because = is === 'not delivered' && error && !/^0*$/.test(error) ? ` (the carrier’s error ${error})` : '';
  return { id, is, detail: `${detail}${because}` };
}

/** Names under which the same text may be known: some carriers answer in hexadecimal and report in decimal, or the other way. Common practice, no source. */
export function sameIds(id: string): string[] {
  const names = [id];
  if (/^\d{1,20}$/.test(id)) names.push(BigInt(id).toString(16), BigInt(id).toString(16).toUpperCase());
  if (/^[0-9a-f]{1,16}$/i.test(id)) names.push(BigInt(`0x${id}`).toString());
  const bare = id.replace(/^0+(?=.)/, '');
  return [...new Set([...names, bare])];
}

/** One of several parts of a text that came in. */
export interface Part {
  /** Names the text among those of its sender. */
  reference: string;
  total: number;
  /** From 1. */
  number: number;
}

/** Which part of a longer text it is; null when it is whole. A header that makes no sense counts for none: what was written is shown all the same. */
export function partOf({ header, sar }: HandedOver): Part | null {
  const of = (reference: string, total: number, number: number): Part | null =>
    total > 1 && number >= 1 && number <= total ? { reference, total, number } : null;
  for (const element of header) {
    // 3GPP TS 23.040 §9.2.3.24.1 and §9.2.3.24.8: with a reference of 8 or of 16 bits.
    if (element[0] === 0 && element[1] === 3 && element.length >= 5)
      return of(`8:${element[2]}`, element[3]!, element[4]!);
    if (element[0] === 8 && element[1] === 4 && element.length >= 6)
      return of(`16:${element[2]! * 256 + element[3]!}`, element[4]!, element[5]!);
  }
  return sar && of(`sar:${sar.reference}`, sar.total, sar.number);
}

/** The parts of a text put together; where one never came, that is shown. */
export function joined(parts: readonly { number: number; text: string }[], total: number): string {
  const by = new Map(parts.map(({ number, text }) => [number, text]));
  let text = '';
  for (let number = 1; number <= total; number++) {
    const part = by.get(number);
    if (part !== undefined) text += part;
    else if (!text.endsWith(' […] ')) text += ' […] ';
  }
  return text.trim();
}
