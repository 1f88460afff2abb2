import type { FactTable } from '@axion/core'
import { sentence, withArticle, type Said } from './sentence.ts'

/** What a request, a person or a run is refused for. */
export const REQUESTS_FACTS = {
  AXION_BAD_REQUEST: { path: false, problem: false },
  AXION_NOT_FOUND: { what: false },
  AXION_SIGN_IN: {},
  AXION_WRONG_SIGN_IN: {},
  AXION_PASSWORD_TEMPORARY: {},
  AXION_TOO_MANY_REQUESTS: {},
  AXION_FORBIDDEN: { role: false },
  AXION_CROSS_SITE: {},
  AXION_INTERNAL: { reference: true },
  AXION_STALE: { what: true },
  AXION_NOT_NOW: {},
  AXION_BOOKS_AWAY: { database: true },
  AXION_BOOKS_MOVING: {},
  AXION_NOTHING_TO_DO: { what: false },
  AXION_UNDER_WAY: { person: false },
  AXION_OWN_REVIEW: { document: true },
  AXION_RUN_FAILED: { detail: true },
  AXION_LAST_ADMINISTRATOR: {},
  AXION_TOO_LARGE: {},
  AXION_ALREADY_EXISTS: { what: true },
  AXION_LINK_USED: {},
  AXION_ENTITY_CLOSED: { day: true },
  AXION_RUNS_UNDER_WAY: { person: true },
} as const satisfies FactTable

export const REQUESTS: Said<typeof REQUESTS_FACTS> = {
  AXION_BAD_REQUEST: sentence(
    400,
    (f) => `${f['path'] || 'The request'} ${f['problem'] ?? 'cannot be read'}.`,
    'Correct it and send it again.',
  ),
  AXION_NOT_FOUND: sentence(
    404,
    (f) => `There is no ${f['what'] ?? 'such thing'} here.`,
    'Check the address; it may have been removed.',
  ),
  AXION_SIGN_IN: sentence(401, () => 'Nobody is signed in.', 'Sign in.'),
  AXION_WRONG_SIGN_IN: sentence(
    401,
    () => 'This e-mail address and password do not belong together.',
    'Try again, or ask an administrator.',
  ),
  AXION_PASSWORD_TEMPORARY: sentence(
    403,
    () => 'Your password was set by somebody else.',
    'Choose one of your own first.',
  ),
  AXION_TOO_MANY_REQUESTS: sentence(429, () => 'Too many attempts.', 'Wait a minute, then try again.'),
  AXION_FORBIDDEN: sentence(
    403,
    (f) => `This needs the role of ${withArticle(f['role'] ?? 'member')}.`,
    'Ask an administrator of the legal entity.',
  ),
  AXION_CROSS_SITE: sentence(
    403,
    () => 'The request did not come from Axion’s own pages.',
    'Send the header X-Axion-Request with it.',
  ),
  AXION_INTERNAL: sentence(
    500,
    (f) => `Something failed here (reference ${f['reference']}). Nothing was changed.`,
    'Try again; if it stays, look up the reference in the server’s log.',
  ),
  AXION_STALE: sentence(409, (f) => `${f['what']} was changed meanwhile.`, 'Look at it again, then decide.'),
  AXION_NOT_NOW: sentence(
    503,
    () => 'That could not be done just now: others are at the same, or the database is coming back.',
    'Nothing was changed. Try again in a moment.',
  ),
  AXION_BOOKS_AWAY: sentence(
    503,
    (f) => `The database “${f['database']}”, in which this legal entity’s books are, does not answer.`,
    'Nothing was changed. Try again in a moment; if it stays, whoever runs Axion has to look at that database.',
  ),
  AXION_BOOKS_MOVING: sentence(
    503,
    () => 'This legal entity’s books are being moved to another database.',
    'Nothing was changed. Try again in a few minutes.',
  ),
  AXION_NOTHING_TO_DO: sentence(
    409,
    (f) => `There is nothing to ${f['what'] ?? 'do'}.`,
    'Look at the list again.',
  ),
  AXION_UNDER_WAY: sentence(
    409,
    (f) => `${f['person'] ?? 'Somebody'} started the same already, and it is under way.`,
    'Wait for it to end, then look again.',
  ),
  AXION_OWN_REVIEW: sentence(
    403,
    (f) => `You keep the difference of ${f['document']} yourself.`,
    'Somebody else reviews it.',
  ),
  AXION_RUN_FAILED: sentence(
    500,
    (f) => `The run stopped: ${f['detail']}`,
    'What was done stays done. Start it again for the rest.',
  ),
  AXION_LAST_ADMINISTRATOR: sentence(
    409,
    () => 'The legal entity would be left without an administrator.',
    'Make somebody else administrator first.',
  ),
  AXION_TOO_LARGE: sentence(
    413,
    () => 'What was sent is larger than is taken here.',
    'Nothing was taken. Send it in parts, or smaller.',
  ),
  AXION_ALREADY_EXISTS: sentence(
    409,
    (f) => `${f['what']} exists already.`,
    'Use another name, or change the one there is.',
  ),
  AXION_LINK_USED: sentence(
    404,
    () => 'This link begins nothing: it was used, or a later start made another.',
    'Sign in where somebody began already; else start Axion again, and follow the link that it prints.',
  ),
  AXION_ENTITY_CLOSED: sentence(
    409,
    (f) => `This legal entity is closed since ${f['day']}: it is read, and nothing is written.`,
    'An administrator opens it again under Legal entity, behind your name.',
  ),
  AXION_RUNS_UNDER_WAY: sentence(
    409,
    (f) => `What ${f['person']} started in this legal entity is still under way.`,
    'Wait for it to end, or cancel it; then close.',
  ),
}
