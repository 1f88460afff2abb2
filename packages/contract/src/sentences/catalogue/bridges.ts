import type { FactTable } from '@axion/core'
import { sentence, type Said } from './sentence.ts'

/** What bridges and what they hold are refused or remarked on for. */
export const BRIDGES_FACTS = {
  AXION_ADDRESS_NOT_ALLOWED: { address: true },
  AXION_BRIDGE_DOWN: { system: true, why: false },
  AXION_BRIDGE_TIMEOUT: { system: true, seconds: true },
  AXION_BRIDGE_REFUSED: { system: true, detail: true },
  AXION_BRIDGE_MALFORMED: { system: true, path: true, problem: true },
  AXION_BRIDGE_VERSION: { system: true, theirs: true, ours: true },
  AXION_BRIDGE_ROLE: { system: true, theirs: true, ours: true },
  AXION_BRIDGE_TOKEN: { system: true },
  AXION_BAD_OBJECT: { system: true, object: true, problem: true, label: false },
  AXION_PULL_BROKE: { system: true, resource: true, detail: true },
  AXION_PULL_CANCELLED: { system: true },
  AXION_CREATED_UNSURE: { what: true, system: true },
  AXION_OTHER_COMPANY: { system: true, before: true, now: true },
  AXION_OLDER_THAN_SOURCE: { system: true, problem: true, document: false },
  AXION_ENTRY_UNREADABLE: { system: true, problem: true, document: false },
  AXION_NEVER_READ: { system: true, problem: true, document: false },
  AXION_AGENCY_NOT_THERE: { agency: true, system: true, document: false },
  AXION_COMMITTED_DIFFERS: { system: true, source: true, document: false },
  AXION_NOT_COMMITTED: { system: true, source: true, document: false },
  AXION_CANCELLED_THERE: { system: true, source: true, document: false },
  AXION_COMMITTED_STILL: { system: true, source: true, document: false },
  AXION_COMMITTED_TWICE: { system: true, source: true, document: false },
  AXION_COMMITTED_NOBODYS: { system: true, document: false },
} as const satisfies FactTable

/** What a connection ended with, by the code that the system has for it. */
const LOST: Readonly<Record<string, string>> = {
  ECONNREFUSED: 'nobody listens there',
  ENOTFOUND: 'its name leads nowhere',
  EAI_AGAIN: 'its name could not be looked up',
  EHOSTUNREACH: 'no way leads there',
  ENETUNREACH: 'no way leads there',
  ECONNRESET: 'the connection was closed',
  UND_ERR_SOCKET: 'the connection was closed',
  UND_ERR_CONNECT_TIMEOUT: 'nobody took the connection',
}

export const BRIDGES: Said<typeof BRIDGES_FACTS> = {
  AXION_ADDRESS_NOT_ALLOWED: sentence(
    422,
    (f) => `The address ${f['address']} is not on the list of allowed bridges.`,
    'Whoever runs Axion adds it, or what it begins with, to AXION_BRIDGES and starts Axion again.',
  ),
  AXION_BRIDGE_DOWN: sentence(
    502,
    (f) =>
      `${f['system']} does not answer at its address${f['why'] ? `: ${LOST[f['why']] ?? f['why']}` : ''}.`,
    'See that the bridge runs there, and that address and port are right; then try again.',
  ),
  AXION_BRIDGE_TIMEOUT: sentence(
    504,
    (f) => `${f['system']} took longer than ${f['seconds']} seconds to answer.`,
    'Try again when it is less busy.',
  ),
  AXION_BRIDGE_REFUSED: sentence(
    502,
    (f) => `${f['system']} refused: ${f['detail']}`,
    'Mend it there, then try again.',
  ),
  AXION_BRIDGE_MALFORMED: sentence(
    502,
    (f) => `${f['system']} answered ${f['path']} in another shape than the contract: ${f['problem']}.`,
    'Have its bridge corrected; docs/bridge.md has the shape.',
  ),
  AXION_BRIDGE_VERSION: sentence(
    502,
    (f) => `${f['system']} speaks version ${f['theirs']} of the bridge contract, Axion ${f['ours']}.`,
    'Bring the bridge to the same version.',
  ),
  AXION_BRIDGE_ROLE: sentence(
    422,
    (f) => `${f['system']} is a system for ${f['theirs']}, not for ${f['ours']}.`,
    'Connect it under its own role.',
  ),
  AXION_BRIDGE_TOKEN: sentence(
    502,
    (f) => `${f['system']} does not accept the token.`,
    'Copy the token again where the bridge was given it, or make a new one there.',
  ),
  AXION_BAD_OBJECT: sentence(
    422,
    (f) =>
      `${f['system']} holds ${f['object']} in a shape that cannot be read: ${f['problem']}. It was left out; the rest was taken.`,
    'Correct it in that system, then pull again.',
  ),
  AXION_PULL_BROKE: sentence(
    500,
    (f) => `What ${f['system']} has of ${f['resource']} could not be taken over: ${f['detail']}`,
    'What was known of it stays. The log has more; pull again, and report it if it stays so.',
  ),
  AXION_PULL_CANCELLED: sentence(
    409,
    (f) => `${f['system']} was not read to its end: somebody cancelled the pull.`,
    'Pull again when it suits.',
  ),
  AXION_CREATED_UNSURE: sentence(
    502,
    (f) =>
      `The connection was lost while ${f['what']} was being created in ${f['system']}: it may be there, or not.`,
    'Pull: what was created shows itself. Sending it once more makes no second one.',
  ),
  AXION_OTHER_COMPANY: sentence(
    409,
    (f) => `${f['system']} was bound to ${f['before']}, and this bridge is bound to ${f['now']}.`,
    'Connect it under a name of its own; what is known of the other stays with the other.',
  ),
  AXION_OLDER_THAN_SOURCE: sentence(
    422,
    (f) =>
      `${f['system']} has changed it, and the change cannot be read (${f['problem']}): what is shown is the version before.`,
    'Correct it at its source; the next pull reads it again.',
  ),
  AXION_ENTRY_UNREADABLE: sentence(
    422,
    (f) => `An entry behind it in ${f['system']} cannot be read: ${f['problem']}.`,
    'Correct it there; the next pull reads it again.',
  ),
  AXION_NEVER_READ: sentence(
    422,
    (f) => `${f['system']} has it, and it cannot be read: ${f['problem']}. Its amounts are not known.`,
    'Correct it at its source; the next pull reads it again.',
  ),
  AXION_AGENCY_NOT_THERE: sentence(
    422,
    (f) => `It names the agency “${f['agency']}”, which is not in ${f['system']}.`,
    'Enter the agency there, or correct the rate; then pull again.',
  ),
  AXION_COMMITTED_DIFFERS: sentence(
    422,
    (f) => `${f['system']} keeps another amount of tax than ${f['source']} states.`,
    'Look which of the two is right; tell the other.',
  ),
  AXION_NOT_COMMITTED: sentence(
    422,
    (f) => `${f['system']} computes for ${f['source']}, and was never told of it.`,
    'Tell it, or correct for which systems it computes, in Connect.',
  ),
  AXION_CANCELLED_THERE: sentence(
    422,
    (f) => `${f['system']} has it as cancelled; in ${f['source']} it stands.`,
    'Tell it of the document again, or void it at its source.',
  ),
  AXION_COMMITTED_STILL: sentence(
    422,
    (f) => `It is void in ${f['source']}, and ${f['system']} keeps its tax all the same.`,
    'Tell it that the document was cancelled.',
  ),
  AXION_COMMITTED_TWICE: sentence(
    422,
    (f) => `${f['system']} keeps it more than once; ${f['source']} has it once.`,
    'Cancel there what is too much.',
  ),
  AXION_COMMITTED_NOBODYS: sentence(
    422,
    (f) => `${f['system']} keeps it, and none of the systems that it computes for has such a document.`,
    'Cancel it there, or connect the system that it came from.',
  ),
}
