import { randomBytes } from 'node:crypto'
import { fail } from './home.mjs'

/** Who owns the schema, who the application is, and who alone lets people in. */
const ROLES = { owner: 'axion_owner', app: 'axion_app', keys: 'axion_keys' }
const SETTINGS = {
  owner: 'AXION_OWNER_DATABASE',
  app: 'AXION_DATABASE',
  keys: 'AXION_KEYS_DATABASE',
}

/**
 * The databases of an installation on a server of one's own, as the environment names them; null where it has a PostgreSQL of its own. They are
 * taken out of the environment: each program is given what is its own, and the worker no address of the keys.
 */
export function databasesNamed(environment) {
  const named = Object.entries(SETTINGS)
  const lacking = named.filter(([, name]) => !environment[name]).map(([, name]) => name)
  if (lacking.length === named.length) return null
  if (lacking.length > 0)
    fail(
      `${lacking.join(' and ')} ${lacking.length === 1 ? 'is' : 'are'} missing: a database of one's own is named by all three. npm run database makes it, with its roles.`,
    )
  const databases = Object.fromEntries(named.map(([of, name]) => [of, environment[name]]))
  for (const [, name] of named) Reflect.deleteProperty(environment, name)
  return { ...databases, standins: [] }
}

/**
 * Makes the roles, and a database with their rights, on a server of one's own.
 * @param admin the address of somebody who may make roles and databases
 * @param renew whether roles that are there get new passwords: other databases of Axion's on that server use them
 * @returns the addresses of the database under each role, as lines of an environment
 * @throws where the database, or without `renew` a role, is there already; then nothing was made
 */
export async function makeDatabase(admin, { name, renew = false }) {
  if (!/^[a-z][a-z0-9_]{0,40}$/.test(name))
    throw new Error(`"${name}" is no name of a database: small letters, figures and _.`)
  const { default: pg } = await import('pg')
  const client = new pg.Client({ connectionString: admin })
  await client.connect()
  try {
    const there = await client.query('select rolname from pg_roles where rolname = any($1)', [
      Object.values(ROLES),
    ])
    if (there.rows.length > 0 && !renew)
      throw new Error(
        `${there.rows.map((one) => one.rolname).join(', ')} ${there.rows.length === 1 ? 'is' : 'are'} there already. With --renew they get new passwords, and whatever uses them has to be told.`,
      )
    const { rowCount } = await client.query('select from pg_database where datname = $1', [name])
    if (rowCount > 0) throw new Error(`the database ${name} is there already.`)
    const passwords = {}
    for (const [of, role] of Object.entries(ROLES)) {
      passwords[of] = randomBytes(32).toString('hex')
      const isThere = there.rows.some((one) => one.rolname === role)
      // A password of hexadecimal digits needs no quoting.
      await client.query(`${isThere ? 'alter' : 'create'} role ${role} login password '${passwords[of]}'`)
    }
    // Whoever makes a database for another has to be a member of it, where they are no superuser.
    await client.query(`grant ${ROLES.owner} to current_user`)
    await client.query(`create database ${name} owner ${ROLES.owner}`)
    await client.query(`revoke all on database ${name} from public`)
    await client.query(`grant connect on database ${name} to ${Object.values(ROLES).join(', ')}`)
    await client.query(`grant temporary on database ${name} to ${ROLES.app}`)
    await within(pg, admin, name)
    return Object.entries(SETTINGS)
      .map(
        ([of, setting]) =>
          `${setting}=${addressOf(admin, { role: ROLES[of], password: passwords[of], name })}\n`,
      )
      .join('')
  } finally {
    await client.end()
  }
}

/** What is granted within the database itself. */
async function within(pg, admin, name) {
  const address = new URL(admin)
  address.pathname = `/${name}`
  const client = new pg.Client({ connectionString: address.href })
  await client.connect()
  try {
    await client.query('revoke create on schema public from public')
    await client.query(`grant usage on schema public to ${ROLES.app}, ${ROLES.keys}`)
    await client.query(`grant all on schema public to ${ROLES.owner}`)
  } finally {
    await client.end()
  }
}

function addressOf(admin, { role, password, name }) {
  const address = new URL(admin)
  address.username = role
  address.password = password
  address.pathname = `/${name}`
  return address.href
}
