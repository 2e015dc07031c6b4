import { explain } from '../entry';

/** Why a WebSocket was closed. */
export const CLOSE_CODES = explain('close code', [
  ['1000', 'Normal: the purpose is fulfilled.', 'RFC 6455 7.4.1', ['websocket']],
  ['1001', 'Going away: the page was left, or the server shuts down.', 'RFC 6455 7.4.1', ['websocket']],
  ['1002', 'One side broke the protocol.', 'RFC 6455 7.4.1', ['websocket']],
  ['1003', 'A message was of a type that the other side does not accept.', 'RFC 6455 7.4.1', ['websocket']],
  ['1005', 'The close frame had no code. Never sent, only reported.', 'RFC 6455 7.4.1', ['websocket']],
  [
    '1006',
    'The connection went away without a close frame: network, proxy time-out or crash. Never sent, only reported.',
    'RFC 6455 7.4.1',
    ['websocket', 'abnormal closure', 'dropped'],
  ],
  ['1007', 'A message did not fit its type, such as text that is not UTF-8.', 'RFC 6455 7.4.1', ['websocket']],
  [
    '1008',
    'A message broke a rule of the other side; used where no other code fits.',
    'RFC 6455 7.4.1',
    ['websocket', 'policy violation'],
  ],
  ['1009', 'A message was too large.', 'RFC 6455 7.4.1', ['websocket']],
  ['1010', 'The client needs an extension that the server did not agree to.', 'RFC 6455 7.4.1', ['websocket']],
  [
    '1011',
    'The server met something unexpected and could not go on.',
    'RFC 6455 7.4.1',
    ['websocket', 'internal error'],
  ],
  ['1012', 'The server is restarting.', 'IANA WebSocket registry', ['websocket']],
  ['1013', 'The server is overloaded: try again later.', 'IANA WebSocket registry', ['websocket']],
  [
    '1014',
    'A gateway got an invalid response from the server behind it.',
    'IANA WebSocket registry',
    ['websocket', 'bad gateway'],
  ],
  ['1015', 'TLS could not be agreed on. Never sent, only reported.', 'RFC 6455 7.4.1', ['websocket']],
  ['3000', 'Not authorised: credentials are missing or not accepted.', 'IANA WebSocket registry', ['websocket']],
  ['3003', 'Forbidden: these credentials do not suffice.', 'IANA WebSocket registry', ['websocket']],
  [
    '4000–4999',
    'The application’s own codes: only its documentation says what they mean.',
    'RFC 6455 7.4.2',
    ['websocket', '4000', '4001', '4003', '4401', '4403', '4999'],
  ],
]);
