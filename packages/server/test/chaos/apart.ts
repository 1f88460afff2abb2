import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { connect, createServer, type Server, type Socket } from 'node:net'

/**
 * A machine of its own for a program, as far as the network knows: a namespace with one cable to this one, which can be pulled out. What
 * listens here on its own address alone is reached there at the same address.
 */
export interface Machine {
  /** What a command begins with to run there. */
  readonly command: readonly string[]
  unplug(): void
  plug(): void
  remove(): void
}

const ip = (...args: string[]): boolean => spawnSync('ip', args).status === 0

let made = 0

/** @returns null where nobody may make one here */
export async function makeMachine(ports: readonly number[]): Promise<Machine | null> {
  const id = `${process.pid % 100_000}x${++made}`
  const [name, here, there] = [`axion-${id}`, `ah${id}`, `at${id}`]
  const net = `10.${200 + (process.pid % 50)}.${made}`
  if (!ip('netns', 'add', name)) return null
  const servers: Server[] = []
  const forwards: ChildProcess[] = []
  const remove = (): void => {
    for (const one of forwards) one.kill('SIGKILL')
    for (const one of servers) one.close()
    ip('link', 'del', here)
    ip('netns', 'del', name)
  }
  const inside = (...args: string[]): boolean => ip('-n', name, ...args)
  const isThere =
    ip('link', 'add', here, 'type', 'veth', 'peer', 'name', there) &&
    ip('link', 'set', there, 'netns', name) &&
    ip('addr', 'add', `${net}.1/30`, 'dev', here) &&
    ip('link', 'set', here, 'up') &&
    inside('addr', 'add', `${net}.2/30`, 'dev', there) &&
    inside('link', 'set', there, 'up') &&
    inside('link', 'set', 'lo', 'up')
  if (!isThere) {
    remove()
    return null
  }
  for (const port of ports) servers.push(await forward(`${net}.1`, port, '127.0.0.1'))
  const command = ['ip', 'netns', 'exec', name]
  forwards.push(await forwardThere(command, ports, `${net}.1`))
  return {
    command,
    unplug: () => void ip('link', 'set', here, 'down'),
    plug: () => void ip('link', 'set', here, 'up'),
    remove,
  }
}

/** Whatever comes at a port goes on to the same port of another host. */
async function forward(host: string, port: number, to: string): Promise<Server> {
  const server = createServer((from: Socket) => {
    const on = connect(port, to)
    for (const [one, other] of [
      [from, on],
      [on, from],
    ] as const) {
      one.on('error', () => other.destroy())
      one.pipe(other)
    }
  })
  await new Promise<void>((done, failed) => {
    server.once('error', failed)
    server.listen(port, host, done)
  })
  return server
}

async function forwardThere(
  [ip = 'ip', ...args]: readonly string[],
  ports: readonly number[],
  to: string,
): Promise<ChildProcess> {
  const script = `
    const net = require('node:net')
    let left = ${ports.length}
    for (const port of ${JSON.stringify(ports)}) net.createServer((from) => {
      const on = net.connect(port, ${JSON.stringify(to)})
      for (const [one, other] of [[from, on], [on, from]]) { one.on('error', () => other.destroy()); one.pipe(other) }
    }).listen(port, '127.0.0.1', () => --left === 0 && console.log('there'))`
  const child = spawn(ip, [...args, process.execPath, '-e', script], { stdio: ['ignore', 'pipe', 'inherit'] })
  await new Promise<void>((done, failed) => {
    child.stdout.once('data', () => done())
    child.once('exit', () => failed(new Error('nothing forwards there')))
  })
  return child
}
