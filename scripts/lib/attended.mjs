/**
 * Loaded before a program of ours that another has started and attends: its standard input ends when that one does, however it ends. Whoever is left behind
 * would hold port and work, and nobody could start again.
 */
const PATIENCE_MS = 10_000

process.stdin.resume()
process.stdin.once('close', () => {
  process.kill(process.pid, 'SIGTERM')
  setTimeout(() => process.kill(process.pid, 'SIGKILL'), PATIENCE_MS).unref()
})
