import { isMainThread } from 'node:worker_threads'

/**
 * Loaded before a program of ours that another has started and attends: its standard input ends when that one does, however it ends. Whoever is left behind
 * would hold port and work, and nobody could start again.
 */
const PATIENCE_MS = 10_000

// It is loaded by the program's threads as well, whose input is their own, and ends at once.
if (isMainThread) {
  process.stdin.resume()
  process.stdin.once('close', () => {
    process.stderr.write('axion: what started this program has ended, and so does it\n')
    process.kill(process.pid, 'SIGTERM')
    setTimeout(() => process.kill(process.pid, 'SIGKILL'), PATIENCE_MS).unref()
  })
}
