<script setup lang="ts">
import type { CollectingView, RegistrationDraft, RegistrationsView } from '@axion/contract'
import { computed, ref } from 'vue'
import Amount from '../../figures/Amount.vue'
import { count, fewOf, isNil, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import YesVerdict from '../../figures/YesVerdict.vue'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import { useAttempt } from '../../shell/useAttempt.ts'
import { useView } from '../../shell/useView.ts'
import AlignTabs from '../AlignTabs.vue'
import CollectingTable from './CollectingTable.vue'
import type { Span } from './SpansForm.vue'
import SpansSheet from './SpansSheet.vue'
import ThresholdsTable from './ThresholdsTable.vue'
import { COLLECTING_MARKS, daysText, isApart } from './words.ts'
import RefusedNote from '../../shell/RefusedNote.vue'

/** Where the entity is registered since when, beside the tax charged there; and from how much on each region wants it. */
const { api, changed, entity, month } = useMonth()
const format = useFormat()
const { view, refused } = useView<RegistrationsView>(() => '/registrations')
const { view: places, refused: unread } = useView<CollectingView>(() => '/collecting')
const apart = computed(() => (places.value?.rows ?? []).filter(isApart))
const unsaid = computed(() => (places.value?.rows ?? []).filter(({ standing }) => standing === 'unsaid'))
const editing = ref<string | null>(null)
const { busy, refused: failed, attempt } = useAttempt()
const may = computed(() => entity.value.role !== 'viewer')
const charging = computed(() =>
  (view.value?.agencies ?? []).filter((agency) => !agency.holds && !isNil(agency.charged)),
)
const first = computed(() => `${month.value}-01`)
const REGISTRATION = [
  { key: 'number', label: 'number', needed: true },
  { key: 'basis', label: 'on', options: ['accrual', 'cash'] },
  { key: 'frequency', label: 'every', options: ['month', 'quarter', 'half-year', 'year'] },
]
const sayRegistration = ({ number, basis, frequency, from, to }: RegistrationDraft): string =>
  [
    number,
    basis && `on ${basis}`,
    frequency && `every ${frequency.replaceAll('-', ' ')}`,
    daysText({ from, to }, format.value.longDay),
  ]
    .filter(Boolean)
    .join(', ')

const keep = (path: string, spans: readonly Span[]): Promise<void> =>
  attempt(async () => {
    // Where only the number of sales counts, no currency does.
    await call('PUT', `${api.value}/${path}`, {
      versions: spans.map((one) =>
        'sales' in one && one['sales'] === null ? { ...one, currency: null } : one,
      ),
    })
    editing.value = null
    await changed()
  })
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Is the entity registered wherever it charges tax?</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="charging.length > 0"
            ><strong>No.</strong> Tax was charged for
            {{ count(charging.length, 'agency', 'agencies') }} without a registration:
            {{
              fewOf(
                charging.map((agency) => agency.name),
                3,
              )
            }}</template
          >
          <template v-else-if="!view.known"
            ><strong>Not known.</strong> Nothing that charges tax was pulled for
            {{ format.month(month) }}</template
          >
          <template v-else-if="!places"
            ><strong>{{ unread ? 'Not known' : 'Reading' }}</strong> where it sells</template
          >
          <template v-else-if="apart.length > 0"
            ><strong>Not as it was said.</strong>
            {{
              fewOf(
                apart.map((row) => `${row.name}: ${COLLECTING_MARKS[row.standing].word}`),
                3,
              )
            }}</template
          >
          <template v-else-if="unsaid.length > 0"
            ><strong>Not said.</strong> Nobody said who collects in
            {{
              fewOf(
                unsaid.map((row) => row.name),
                3,
              )
            }}, where something is sold</template
          >
          <YesVerdict v-else
            >{{ count(view.agencies.filter((agency) => agency.holds).length, 'registration') }} of
            {{ count(view.agencies.length, 'agency', 'agencies') }} at the end of the month<template
              v-if="places.nowhere.documents > 0"
              >; {{ count(places.nowhere.documents, 'document') }} lie in no place that it asks of</template
            ></YesVerdict
          >
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
    </div>
    <AlignTabs chosen="registrations" />
    <RefusedNote :refused="failed ?? refused" />
    <template v-if="view">
      <SpansSheet
        v-slot="{ row: agency }"
        v-model:editing="editing"
        label="Registrations"
        of="agency"
        :heads="[
          { title: 'Agency' },
          { title: 'Collects for' },
          { title: 'Registration' },
          { title: 'State' },
          { title: `Charged, ${view.currency}`, n: true },
        ]"
        :rows="view.agencies"
        :fields="REGISTRATION"
        :fresh="() => ({ number: null, basis: null, frequency: null, from: first, to: null })"
        :says="({ name }) => `Change the registration with ${name}`"
        :may="may"
        :busy="busy"
        @keep="(id, spans) => keep(`registrations/${encodeURIComponent(id)}`, spans)"
      >
        <td class="strong" :title="agency.name">{{ agency.name }}</td>
        <td class="soft" :title="agency.regions.join(', ')">{{ agency.regions.join(', ') }}</td>
        <td class="wide" :title="agency.versions.map(sayRegistration).join('; ')">
          {{ agency.versions.map(sayRegistration).join('; ') || 'none' }}
        </td>
        <td>
          <StateMark
            :state="agency.holds ? 'holds' : isNil(agency.charged) ? 'open' : 'breaks'"
            :word="agency.holds ? 'registered' : isNil(agency.charged) ? 'not registered' : 'charged without'"
          />
        </td>
        <td class="n">
          <Amount
            :value="agency.charged"
            :of="{ of: 'tax', voice: 'stated', agency: agency.id }"
            :breaks="!agency.holds"
          />
        </td>
      </SpansSheet>
      <h2>
        Who collects
        <small class="soft"
          >in each country and region where it sells: said, and held against what is seen</small
        >
      </h2>
      <RefusedNote :refused="unread" />
      <CollectingTable
        v-if="places"
        v-model:editing="editing"
        :view="places"
        :may="may"
        :busy="busy"
        :first="first"
        @keep="(id, spans) => keep(`collecting/${encodeURIComponent(id)}`, spans)"
      />
      <h2>
        Thresholds
        <small class="soft"
          >from how much on, in twelve months, a region wants registration: either alone suffices</small
        >
      </h2>
      <ThresholdsTable
        v-model:editing="editing"
        :view="view"
        :may="may"
        :busy="busy"
        :first="first"
        @keep="(id, spans) => keep(`thresholds/${encodeURIComponent(id)}`, spans)"
      />
    </template>
  </main>
</template>

<style scoped>
h2 {
  font-size: 17px;
  font-weight: 700;
  margin: 16px 0 6px;
}
h2 small {
  font-size: 13.5px;
  font-weight: 400;
  margin-left: 8px;
}
</style>
