import type { SystemRole } from '@axion/contract'
import type { From } from './write.ts'

/** What stands beside a new bridge: how it is started, connected and tested, and where one's own work goes. */
export function readmeOf(role: SystemRole, from: From): string {
  return `# A bridge to Axion, for a ${role} system

It lets Axion read a system over HTTP, as Axion's \`docs/bridge.md\` says, and writes nothing into it.

    npm install
    npm start

It is at http://127.0.0.1:4300 then (the port stands in bridge.json; PORT in the environment goes before it), for this machine alone: put
TLS and a name in front of it for any other. Axion's setting AXION_BRIDGES has to allow the address. Connect it in Axion under *Connect*, with that address and what stands in the file \`token\`.

## Make it yours
1. **bridge.json**: what the system is called, which company it is bound to, its currency and time zone, and what of \`settings\` is true of it. The id of the company never changes.
${from === 'csv' ? OF_TABLES : OF_OWN}
3. **Test it**, in Axion's folder: \`npm run bridge:check -- --url http://127.0.0.1:4300 --token "$(cat …/token)"\`. It says rule by rule what holds and what fails.

## What it does for you
- \`changes.ts\` gives every object its place in a sequence: what is new, changed or gone since the last time is found by comparison, and kept in
  \`state.json\`. Where that file is lost everything is read once more; nothing is missed. One bridge at a time keeps one \`state.json\`.
- The whole system is read each time that Axion begins to read a resource, and held in memory. Where that is too much, have the system itself number its changes.
${role === 'ledger' ? '- `balances.ts` sums the entries, in the currency of the books. To let Axion post, have `about.takes` name `bookings`, and answer what `docs/bridge.md` says under *Bookings*.\n' : ''}`
}

const OF_OWN = `2. **source.ts**: your own reading. It hands out every object of a resource as the system has it now; until then it has the rows of sample.json.`

const OF_TABLES = `2. **data/**: one table a resource (CSV in UTF-8, between commas, semicolons or tabs), with the columns as the samples have them. They are called as the fields in
   \`docs/bridge.md\`; \`of\` names the object that a line, component or tender belongs to, \`entry\` the tax entry that a component belongs to. Yes and no; amounts as
   \`1284.16\`, dates as \`2026-09-17\`, ids that never change their meaning. An empty cell is *not stated*. Columns of which nothing is known may be left out, but for
   those that say what an object is; a table or a column that cannot be read is named, and nothing is read in its place.
   **Write a table under another name and rename it**: a file that was written to within two seconds is not read yet. A row that is gone is read as removed.`
