import smpp, { type Pdu } from 'smpp';
import type { HandedOver } from '../../core/message/smpp/incoming.ts';
import { CODING, type Encoding, partHeader, smppAddress, writtenBy } from '../../core/message/smpp/outgoing.ts';

const { encodings } = smpp;

/** The fields of one part that is handed over. */
export function submission(
  { to, from }: { to: string; from: string },
  encoding: Encoding,
  parts: readonly string[],
  index: number,
  reference: number,
): Record<string, unknown> {
  const sender = smppAddress(from);
  const receiver = smppAddress(to);
  const several = parts.length > 1;
  const header = several ? Buffer.from(partHeader(reference, parts.length, index + 1)) : Buffer.alloc(0);
  return {
    source_addr_ton: sender.ton,
    source_addr_npi: sender.npi,
    source_addr: sender.address,
    dest_addr_ton: receiver.ton,
    dest_addr_npi: receiver.npi,
    destination_addr: receiver.address,
    // Bit 6: a user data header comes first.
    esm_class: several ? 0x40 : 0,
    // Final receipts, of what arrives and of what does not.
    registered_delivery: 1,
    data_coding: CODING[encoding],
    short_message: Buffer.concat([header, bytesOf(parts[index]!, encoding)]),
  };
}

function bytesOf(text: string, encoding: Encoding): Buffer {
  if (encoding === 'GSM-7') return encodings.ASCII.encode(text);
  if (encoding === 'Latin-1') return Buffer.from(text, 'latin1');
  return Buffer.from(text, 'utf16le').swap16();
}

/** What was brought, as far as the package understands it. */
export function handedOver(pdu: Pdu): HandedOver {
  interface Read {
    message?: unknown;
    udh?: Uint8Array[];
  }
  const short = pdu.short_message as Read | undefined;
  const long = pdu.message_payload as Read | undefined;
  const read = long?.message !== undefined && long.message !== '' ? long : short;
  let text = typeof read?.message === 'string' ? read.message : '';
  // IA5 (data_coding 1), which the package reads as the 7-bit alphabet of phones.
  if (pdu.data_coding === 1) text = encodings.ASCII.encode(text).toString('latin1');
  const number = (name: string): number | null => (typeof pdu[name] === 'number' ? (pdu[name] as number) : null);
  const [ref, total, part] = [number('sar_msg_ref_num'), number('sar_total_segments'), number('sar_segment_seqnum')];
  const receipted = pdu.receipted_message_id;
  return {
    esmClass: number('esm_class') ?? 0,
    from: writtenBy({ ton: number('source_addr_ton') ?? 0, address: String(pdu.source_addr ?? '') }),
    to: writtenBy({ ton: number('dest_addr_ton') ?? 0, address: String(pdu.destination_addr ?? '') }),
    text,
    header: short?.udh ?? [],
    sar: ref !== null && total !== null && part !== null ? { reference: ref, total, number: part } : null,
    receiptedId: receipted === undefined || receipted === null ? null : String(receipted).replaceAll('\0', '') || null,
    messageState: number('message_state'),
  };
}
