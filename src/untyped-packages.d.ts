declare module 'freemail' {
  const list: { isFree(email: string): boolean; isDisposable(email: string): boolean };
  export default list;
}
