import type { Knex } from 'knex'
import * as foundation from './001_foundation.ts'
import * as variety from './002_variety.ts'
import * as people from './003_people.ts'
import * as slices from './004_slices.ts'
import * as align from './005_align.ts'
import * as records from './006_records.ts'
import * as breadth from './007_breadth.ts'
import * as files from './008_files.ts'
import * as analysis from './009_analysis.ts'
import * as certificates from './010_certificates.ts'
import * as invitations from './011_invitations.ts'
import * as scope from './012_scope.ts'
import * as rules from './013_rules.ts'
import * as purchases from './014_purchases.ts'
import * as defaults from './015_defaults.ts'
import * as purposes from './016_purposes.ts'
import * as newItems from './017_new_items.ts'
import * as sharedNames from './018_shared_names.ts'
import * as voices from './019_voices.ts'
import * as states from './020_states.ts'
import * as settled from './021_settled.ts'
import * as ratesOfUnits from './022_rates_of_units.ts'
import * as forsakenRuns from './023_forsaken_runs.ts'
import * as pullPages from './024_pull_pages.ts'
import * as statistics from './025_statistics.ts'
import * as trail from './026_trail.ts'
import * as clocks from './027_clocks.ts'
import * as documents from './028_documents.ts'
import * as recorded from './029_recorded.ts'
import * as numbers from './030_numbers.ts'
import * as keptUnits from './031_kept_units.ts'
import * as due from './032_due.ts'
import * as stamps from './033_stamps.ts'
import * as restsOn from './034_rests_on.ts'
import * as totals from './035_totals.ts'
import * as withoutUnit from './036_without_unit.ts'
import * as learned from './037_learned.ts'
import * as grown from './038_grown.ts'
import * as bookingOf from './039_booking_of.ts'
import * as factsTogether from './040_facts_together.ts'
import * as ofItsOwn from './041_of_its_own.ts'
import * as homes from './042_homes.ts'
import * as totalsAtOnce from './043_totals_at_once.ts'
import * as trailEnds from './044_trail_ends.ts'
import * as lists from './045_lists.ts'
import * as staged from './046_staged.ts'
import * as stakes from './047_stakes.ts'
import * as fenced from './048_fenced.ts'
import * as pairs from './049_pairs.ts'
import * as named from './050_named.ts'
import * as pastUntil from './051_past_until.ts'
import * as touches from './052_touches.ts'
import * as moved from './053_moved.ts'
import * as own from './054_own.ts'
import * as metrics from './055_metrics.ts'
import * as changed from './056_changed.ts'
import * as once from './057_once.ts'
import * as authority from './058_authority.ts'
import * as restored from './059_restored.ts'
import * as attached from './060_attached.ts'
import * as copied from './061_copied.ts'
import * as collecting from './062_collecting.ts'
import * as bySource from './063_by_source.ts'
import * as overridden from './064_overridden.ts'
import * as opening from './065_opening.ts'
import * as committed from './066_committed.ts'

/** Every migration in its order. A name, once released, stays. */
const MIGRATIONS: Readonly<Record<string, Knex.Migration>> = {
  '001_foundation': foundation,
  '002_variety': variety,
  '003_people': people,
  '004_slices': slices,
  '005_align': align,
  '006_records': records,
  '007_breadth': breadth,
  '008_files': files,
  '009_analysis': analysis,
  '010_certificates': certificates,
  '011_invitations': invitations,
  '012_scope': scope,
  '013_rules': rules,
  '014_purchases': purchases,
  '015_defaults': defaults,
  '016_purposes': purposes,
  '017_new_items': newItems,
  '018_shared_names': sharedNames,
  '019_voices': voices,
  '020_states': states,
  '021_settled': settled,
  '022_rates_of_units': ratesOfUnits,
  '023_forsaken_runs': forsakenRuns,
  '024_pull_pages': pullPages,
  '025_statistics': statistics,
  '026_trail': trail,
  '027_clocks': clocks,
  '028_documents': documents,
  '029_recorded': recorded,
  '030_numbers': numbers,
  '031_kept_units': keptUnits,
  '032_due': due,
  '033_stamps': stamps,
  '034_rests_on': restsOn,
  '035_totals': totals,
  '036_without_unit': withoutUnit,
  '037_learned': learned,
  '038_grown': grown,
  '039_booking_of': bookingOf,
  '040_facts_together': factsTogether,
  '041_of_its_own': ofItsOwn,
  '042_homes': homes,
  '043_totals_at_once': totalsAtOnce,
  '044_trail_ends': trailEnds,
  '045_lists': lists,
  '046_staged': staged,
  '047_stakes': stakes,
  '048_fenced': fenced,
  '049_pairs': pairs,
  '050_named': named,
  '051_past_until': pastUntil,
  '052_touches': touches,
  '053_moved': moved,
  '054_own': own,
  '055_metrics': metrics,
  '056_changed': changed,
  '057_once': once,
  '058_authority': authority,
  '059_restored': restored,
  '060_attached': attached,
  '061_copied': copied,
  '062_collecting': collecting,
  '063_by_source': bySource,
  '064_overridden': overridden,
  '065_opening': opening,
  '066_committed': committed,
}

export const migrationSource: Knex.MigrationSource<string> = {
  getMigrations: () => Promise.resolve(Object.keys(MIGRATIONS)),
  getMigrationName: (name) => name,
  getMigration: (name) => Promise.resolve(MIGRATIONS[name] as Knex.Migration),
}
