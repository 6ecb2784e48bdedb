/** How each kind of service is spoken of at the beginning of a sentence. */
export const WHO = {
  text_carrier: 'The carrier',
  mail_server: 'The mail server',
  ad_platform: 'The ad platform',
  funnel_host: 'The funnel host',
  shop: 'The shop',
  booking_calendar: 'The booking calendar',
  company_directory: 'The company directory',
  chat_network: 'The chat network',
  service: 'The service',
  database: 'The database',
  mail_account: 'The mail server',
  file_place: 'The file server',
  calendar_account: 'The calendar server',
} as const;
