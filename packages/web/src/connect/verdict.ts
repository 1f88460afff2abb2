import type { ConnectView } from '@axion/contract'
import { count } from '../figures/format.ts'

type System = ConnectView['systems'][number]

const isOrAre = (n: number): string => (n === 1 ? 'is' : 'are')

/** Whether each system is ready: the answer, and everything that speaks against a plain yes. */
export function connectVerdict(systems: readonly System[]): {
  readonly answer: string
  readonly because: string
} {
  const checks = systems.flatMap((system) => system.checks)
  const others = besides(systems)
  if (systems.length === 0) return { answer: 'No.', because: 'None is connected' }
  if (checks.length === 0)
    return {
      answer: 'Not known yet.',
      because: ['Nothing was checked', ...others].join('; '),
    }
  const failing = checks.filter((check) => check.state === 'fails')
  const stopping = failing.filter((check) => check.blocks).length
  if (failing.length === 0 && others.length === 0)
    return {
      answer: 'Yes.',
      because: `${count(checks.length, 'check')} of ${count(systems.length, 'system')} pass`,
    }
  const ofChecks =
    failing.length === 0
      ? 'Every check passes'
      : stopping === 0
        ? `${count(failing.length, 'check fails', 'checks fail')} of ${checks.length}; none stops posting`
        : `${count(stopping, 'check')} of ${checks.length} ${stopping === 1 ? 'stops' : 'stop'} posting${more(failing.length - stopping)}`
  return { answer: stopping > 0 ? 'No.' : 'Not quite.', because: [ofChecks, ...others].join('; ') }
}

function more(failing: number): string {
  return failing === 0 ? '' : `; ${failing} more ${failing === 1 ? 'fails' : 'fail'}`
}

/** What no check asks: what was not pulled, what could not be read, and who is silent. */
function besides(systems: readonly System[]): string[] {
  const failed = systems.filter((system) => system.notFresh !== null).map((system) => system.name)
  const unread = systems.reduce((sum, system) => sum + system.findings.length, 0)
  const silent = systems.flatMap((system) =>
    system.streams.filter((stream) => stream.silence).map((stream) => stream.name || system.name),
  )
  const idle = systems
    .filter(({ computesFor }) => computesFor?.length && !computesFor.some(({ said }) => said))
    .map(({ name }) => name)
  return [
    ...(failed.length > 0 ? [`the last pull of ${failed.join(' and ')} failed`] : []),
    ...(unread > 0 ? [`${count(unread, 'object')} could not be read`] : []),
    ...idle.map((name) => `nobody said for which systems ${name} computes`),
    ...(silent.length > 0 ? [`${silent.join(' and ')} ${isOrAre(silent.length)} silent`] : []),
  ]
}
