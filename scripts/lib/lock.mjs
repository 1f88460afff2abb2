import { createHash } from 'node:crypto'
import { accessSync, constants, mkdirSync, realpathSync, statSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { fail } from './home.mjs'

/**
 * Holds a home, so that one installation alone works in it: an address that the kernel gives to one process at a time, and takes
 * back when that ends, however it ends. Whoever comes second is told by whom it is held, and has touched nothing.
 * @returns how to let go
 */
export async function holdHome(home, holder) {
  try {
    mkdirSync(home, { recursive: true })
    if (!statSync(home).isDirectory()) throw new Error('it is a file')
    accessSync(home, constants.W_OK)
  } catch (error) {
    return fail(
      `AXION_HOME is "${home}"; it must be a folder that can be made and written (${reasonOf(error)}). Nothing was touched.`,
    )
  }
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

/** Why a folder is of no use, in a few words. */
function reasonOf(error) {
  const words = {
    EEXIST: 'it is a file',
    ENOTDIR: 'a part of it is a file',
    EACCES: 'it may not be written',
    EROFS: 'it may not be written',
    ENOENT: 'it cannot be made',
    ENOSPC: 'its disk is full',
  }
  return words[error.code] ?? error.message
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
