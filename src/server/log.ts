import pino from 'pino';

/** The server's log, on stderr. Never given addresses, headers or bodies of captures: they hold secrets. */
export const log = pino({ level: process.env['TRAZADO_LOG'] ?? 'warn', base: null }, pino.destination(2));
