<script setup lang="ts">
import type { AskedAnswers, DecisionsView } from '@axion/contract'
import { computed, reactive } from 'vue'
import Amount from '../../figures/Amount.vue'
import { count } from '../../figures/format.ts'
import { answersOf, certificateRow, registrationRow, type CertificateTyped, type Row } from './answers.ts'
import DayHead from './DayHead.vue'
import NumberAndDay from './NumberAndDay.vue'

/** What a person knows and no system: registrations and certificates, typed or pasted down the column, and kept at once. */
const props = defineProps<{
  asked: DecisionsView['asked']
  currency: string
  may: boolean
  busy: boolean
}>()
const emit = defineEmits<{ keep: [answers: AskedAnswers] }>()
/** So many are asked at once; the rest once these are kept. */
const MOST = 60
/** What is typed stays while others are kept. */
const numbers = new Map<string, Row>()
const claims = new Map<string, CertificateTyped>()
const registrations = computed(() =>
  props.asked.registrations.slice(0, MOST).map((one) => {
    const row = numbers.get(one.agency) ?? reactive(registrationRow())
    numbers.set(one.agency, row)
    return { ...one, row }
  }),
)
const certificates = computed(() =>
  props.asked.certificates.slice(0, MOST).map((one) => {
    const row = claims.get(one.party) ?? reactive(certificateRow(one.regions))
    claims.set(one.party, row)
    return { ...one, row }
  }),
)
const answers = computed(() => answersOf(registrations.value, certificates.value))
const ready = computed(() => answers.value.registrations.length + answers.value.certificates.length)
/** A certificate is for some region, or for none at all. */
const lacksRegion = ({ number, regions }: CertificateTyped): boolean =>
  number.trim() !== '' && regions.length === 0
function offer(row: CertificateTyped, event: Event): void {
  const choice = event.target as HTMLSelectElement
  row.offered.push(choice.value)
  row.regions.push(choice.value)
  choice.value = ''
}
const more = (all: readonly unknown[]): number => Math.max(0, all.length - MOST)
</script>

<template>
  <form aria-label="Answers" @submit.prevent="emit('keep', answers)">
    <fieldset class="asked-of" :disabled="!may">
      <div
        v-if="registrations.length > 0"
        class="scroll"
        tabindex="0"
        role="region"
        aria-label="Registrations asked"
      >
        <table class="sheet" aria-label="Registrations asked" data-asked="registrations">
          <thead>
            <tr>
              <th scope="col">The registration with</th>
              <th scope="col" class="n">Charged, {{ currency }}</th>
              <th scope="col">Number</th>
              <DayHead :rows="registrations.map(({ row }) => row)">First day</DayHead>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="({ agency, name, charged, row }, at) in registrations"
              :key="agency"
              :data-agency="agency"
            >
              <td class="strong" :title="name">{{ name }}</td>
              <td class="n"><Amount :value="charged" :of="{ of: 'tax', voice: 'stated', agency }" /></td>
              <NumberAndDay
                v-model:number="row.number"
                v-model:from="row.from"
                :rows="registrations.map((one) => one.row)"
                :at="at"
                :longest="60"
                :labels="{
                  number: `Number of the registration with ${name}`,
                  day: `First day of the registration with ${name}`,
                }"
              />
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="more(asked.registrations) > 0" class="soft">
        {{ count(more(asked.registrations), 'more agency', 'more agencies') }} once these are kept.
      </p>
      <div
        v-if="certificates.length > 0"
        class="scroll"
        tabindex="0"
        role="region"
        aria-label="Certificates asked"
      >
        <table class="sheet" aria-label="Certificates asked" data-asked="certificates">
          <thead>
            <tr>
              <th scope="col">The certificate of</th>
              <th scope="col">Claims</th>
              <th scope="col" class="n">Documents</th>
              <th scope="col">Number</th>
              <th scope="col">In</th>
              <DayHead :rows="certificates.map(({ row }) => row)">From</DayHead>
              <th scope="col">Until</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="({ party, name, reason, documents, row }, at) in certificates"
              :key="party"
              :data-party="party"
            >
              <td class="strong" :title="name">{{ name }}</td>
              <td class="soft">{{ reason.replaceAll('-', ' ') }}</td>
              <td class="n">{{ documents || '–' }}</td>
              <NumberAndDay
                v-model:number="row.number"
                v-model:from="row.from"
                :rows="certificates.map((one) => one.row)"
                :at="at"
                :longest="100"
                :labels="{
                  number: `Number of the certificate of ${name}`,
                  day: `First day of the certificate of ${name}`,
                }"
              >
                <td class="regions">
                  <label
                    v-for="region in asked.regions.filter(({ id }) => row.offered.includes(id))"
                    :key="region.id"
                    ><input
                      v-model="row.regions"
                      type="checkbox"
                      :value="region.id"
                      :required="lacksRegion(row)"
                    />
                    {{ region.name }}</label
                  >
                  <select
                    v-if="row.offered.length < asked.regions.length"
                    :required="lacksRegion(row)"
                    :aria-label="`Another region of the certificate of ${name}`"
                    @change="offer(row, $event)"
                  >
                    <option value="">another</option>
                    <option
                      v-for="region in asked.regions.filter(({ id }) => !row.offered.includes(id))"
                      :key="region.id"
                      :value="region.id"
                    >
                      {{ region.name }}
                    </option>
                  </select>
                </td>
              </NumberAndDay>
              <td>
                <input
                  v-model="row.to"
                  type="date"
                  :aria-label="`Last day of the certificate of ${name}`"
                  :min="row.from"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="more(asked.certificates) > 0" class="soft">
        {{ count(more(asked.certificates), 'more party', 'more parties') }} once these are kept.
      </p>
      <p v-if="may" class="actions">
        <button class="do" type="submit" data-keep-answers :disabled="busy || ready === 0">
          Keep {{ ready === 0 ? 'what is answered' : count(ready, 'answer') }}
        </button>
        <span class="soft">
          What is left empty is asked again: without a registration no tax is expected, without a certificate
          all of it.</span
        >
      </p>
    </fieldset>
  </form>
</template>

<style scoped src="./answers.css"></style>
<style scoped>
fieldset {
  margin: 0;
  padding: 0;
  border: 0;
  min-width: 0;
}
.asked-of {
  display: grid;
  gap: 10px;
}
td select {
  width: auto;
  color: var(--soft);
}
.regions {
  white-space: normal;
}
.regions label {
  margin-right: 10px;
  white-space: nowrap;
}
.actions {
  margin-top: 0;
}
</style>
