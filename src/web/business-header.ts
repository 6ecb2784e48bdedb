/** Between the server and the pages: the key of the business an address names. What a browser sends under this name is thrown away. */
export const BUSINESS_HEADER = 'x-pine-bell-business';
