import { resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { SYSTEM_ROLES, type SystemRole } from '@axion/contract'
import { writeBridge, type From } from './write.ts'

/** npm run bridge:new -- --role billing --dir ../bridge [--from csv] */
function fail(line: string): never {
  process.stderr.write(
    `bridge:new: ${line}\nusage: npm run bridge:new -- --role <${SYSTEM_ROLES.join('|')}> --dir <an empty folder> [--from csv]\n`,
  )
  process.exit(2)
}

function read(): { role: string; dir: string; from: string } {
  try {
    const { values } = parseArgs({
      options: {
        role: { type: 'string' },
        dir: { type: 'string' },
        from: { type: 'string', default: 'own' },
      },
    })
    return { role: values.role ?? '', dir: values.dir ?? '', from: values.from }
  } catch (error) {
    return fail((error as Error).message)
  }
}

const { role, dir, from } = read()
if (!SYSTEM_ROLES.includes(role as SystemRole)) fail(`"${role}" is no role of a system.`)
if (dir === '') fail('--dir is missing.')
if (!['own', 'csv'].includes(from)) fail(`--from is "${from}"; it is csv, or left out.`)
const folder = resolve(process.env['INIT_CWD'] ?? '.', dir)
try {
  writeBridge({ role: role as SystemRole, dir: folder, from: from as From })
} catch (error) {
  fail((error as Error).message)
}
process.stdout.write(`A bridge for a ${role} system is in ${folder}. Its README.md says how it goes on.\n`)
