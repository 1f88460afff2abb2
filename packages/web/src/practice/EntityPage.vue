<script setup lang="ts">
import type { EntityView, MonthsView } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { useFormat } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useReading } from '../shell/reading.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useSession } from '../shell/session.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import EntityFields from './EntityFields.vue'

/** What a legal entity is: renamed, closed and opened again here; what its books are reckoned by only stands here. */
const { entity, changed } = useMonth()
const session = useSession()
/** Whether somebody is about to close it. */
const asking = ref(false)
const format = useFormat()
const api = computed(() => `/api/entities/${entity.value.id}`)
const { view, refused: notRead, reload } = useReading<EntityView>(() => api.value)
/** What would stay as it stands. */
const { view: months } = useReading<MonthsView>(() => (asking.value ? `${api.value}/months` : null))
const open = computed(() => (months.value?.months ?? []).filter(({ state }) => state === 'open'))
const { busy, refused: notDone, attempt } = useAttempt()
const refused = computed(() => notDone.value ?? notRead.value)
const administers = computed(() => entity.value.role === 'administrator')
const [name, locale, yearBegins] = [ref(''), ref(''), ref('')]
const kept = ref(false)
watch(
  view,
  (now) => {
    if (!now) return
    name.value = now.name
    locale.value = now.locale
    yearBegins.value = now.yearBegins === null ? '' : String(now.yearBegins)
  },
  { immediate: true },
)
const countryOf = (code: string): string => {
  const said = new Intl.DisplayNames('en', { type: 'region' }).of(code)
  return said === undefined || said === code || code.startsWith('X') ? code : `${said} (${code})`
}
const stays = computed(() =>
  view.value
    ? [
        ['Home country', countryOf(view.value.country)],
        ['Base currency', view.value.currency],
        ['Time zone', view.value.timeZone.replaceAll('_', ' ')],
        ['In addresses', view.value.id],
      ]
    : [],
)

const doing = (work: () => Promise<unknown>): Promise<void> =>
  attempt(async () => {
    kept.value = false
    await work()
    await session.load()
    await Promise.all([reload(), changed()])
  })
const keep = (): Promise<void> =>
  doing(async () => {
    await call('PUT', api.value, {
      name: name.value.trim(),
      locale: locale.value,
      yearBegins: yearBegins.value === '' ? null : Number(yearBegins.value),
    })
    kept.value = true
  })
const close = (closed: boolean): Promise<void> =>
  doing(async () => {
    await call('PUT', `${api.value}/closed`, { closed })
    asking.value = false
  })
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">What is this legal entity?</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="view.closedOn"
            ><strong>Closed</strong> since {{ format.longDay(view.closedOn) }}: read, and written no
            more</template
          >
          <template v-else><strong>Open.</strong> Its books are kept in {{ view.currency }}</template>
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
    </div>
    <RefusedNote :refused="refused" />
    <div v-if="view" class="both">
      <form class="asks" @submit.prevent="keep">
        <fieldset :disabled="!administers || view.closedOn !== null">
          <EntityFields
            v-model:name="name"
            v-model:locale="locale"
            v-model:year-begins="yearBegins"
            may-stay-open
          />
        </fieldset>
        <p v-if="administers && view.closedOn === null">
          <button class="do first" type="submit" :disabled="busy">Keep it so</button>
          <span v-if="kept" class="soft" role="status"> Kept.</span>
        </p>
        <p v-else-if="!administers" class="soft">An administrator of the legal entity changes it.</p>
      </form>
      <section class="asks" aria-label="What stays">
        <h2>What stays</h2>
        <dl>
          <template v-for="[what, is] in stays" :key="what"
            ><dt>{{ what }}</dt>
            <dd>{{ is }}</dd></template
          >
        </dl>
        <p class="soft">Every document was reckoned by them. Another business is another legal entity.</p>
        <template v-if="administers">
          <p v-if="view.closedOn !== null">
            <button class="do first" type="button" :disabled="busy" @click="close(false)">
              Open it again
            </button>
          </p>
          <p v-else-if="!asking">
            <button class="do" type="button" @click="asking = true">Close this legal entity</button>
          </p>
          <div v-else class="note" role="group" aria-label="Close this legal entity">
            <p>
              Nothing is pulled, agreed, posted or mended in it any more, by anybody or by itself. All of it
              stays to be read, and you may open it again.
            </p>
            <p v-if="open.length > 0" data-open-months>
              <b>Not proved, and left so:</b> {{ open.map((one) => format.month(one.month)).join(', ') }}.
            </p>
            <p class="row">
              <button class="do first" type="button" :disabled="busy" @click="close(true)">
                Close {{ view.name }}
              </button>
              <button class="do" type="button" @click="asking = false">Leave it open</button>
            </p>
          </div>
        </template>
      </section>
    </div>
  </main>
</template>

<style scoped>
.asks {
  --called: 190px;
}
.both {
  display: grid;
  grid-template-columns: minmax(0, 720px) minmax(0, 420px);
  gap: 20px;
  align-items: start;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 10px;
}
dl {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 3px 10px;
  margin: 0;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
}
.row {
  display: flex;
  gap: 10px;
  margin-top: 8px;
}
@media (max-width: 900px) {
  .both {
    grid-template-columns: 1fr;
  }
}
</style>
