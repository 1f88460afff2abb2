import { createHash } from 'node:crypto'
import { mkdirSync, realpathSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { fail } from './home.mjs'

/**
 * Holds a home, so that one installation alone works in it: an address that the kernel gives to one process at a time, and takes
 * back when that ends, however it ends. Whoever comes second is told by whom it is held, and has touched nothing.
 * @returns how to let go
 */
export async function holdHome(home, holder) {
  mkdirSync(home, { recursive: true })
  const path = `\0axion-${createHash('sha256').update(realpathSync(home)).digest('hex')}`
  const server = createServer((socket) => socket.end(holder))
  const held = await new Promise((told) => {
    server.once('error', (error) => told(error))
    server.listen(path, () => told(null))
  })
  if (held === null) {
    server.unref()
    return () => server.close()
  }
  if (held.code !== 'EADDRINUSE') throw held
  return fail(
    `${home} is held by ${await holderAt(path)}. Stop that first, or take another AXION_HOME; nothing was touched.`,
  )
}

function holderAt(path) {
  return new Promise((told) => {
    let words = ''
    const socket = connect(path)
    socket.on('data', (data) => (words += data))
    socket.once('error', () => told('another process'))
    socket.once('close', () => told(words || 'another process'))
  })
}
