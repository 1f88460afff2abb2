import { expect, it } from 'vitest'
import { LastingLog } from '../src/main/lastingLog.ts'

it('a log whose disk is full loses lines, never its program, and says how many once there is room', () => {
  let [log, room] = ['', 12]
  const stream = new LastingLog((bytes, from) => {
    if (room === 0) throw Object.assign(new Error('ENOSPC'), { code: 'ENOSPC' })
    const some = bytes.subarray(from, from + Math.min(room, 5))
    log += some.toString()
    room -= some.length
    return some.length
  })
  stream.write('one\n')
  stream.write('two and three\n')
  stream.write('four\nfive\n')
  room = 1000
  stream.write('six\n')
  expect(log).toBe('one\ntwo and \naxion: here 3 lines could not be written\nsix\n')
  expect(stream.destroyed).toBe(false)
})
