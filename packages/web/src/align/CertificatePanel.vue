<script setup lang="ts">
import type { CertificatesView } from '@axion/contract'
import { computed, reactive, ref } from 'vue'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useView } from '../shell/useView.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import AttachedFiles from './AttachedFiles.vue'

/** A party's exemption certificates, each with the files that prove it; a new one can be recorded and its file attached. */
const props = defineProps<{ party: string; name: string }>()
const path = computed(() => `/certificates/${encodeURIComponent(props.party)}`)
const { view, refused: notRead } = useView<CertificatesView>(() => path.value)
const { api, changed } = useMonth()
const adding = ref(false)
const refused = ref<Refused | null>(null)
const form = reactive({ number: '', reason: '', regions: [] as string[], from: '', to: '' })
const reasons = computed(() => [
  ...new Set(
    (view.value?.regions ?? [])
      .filter((r) => form.regions.length === 0 || form.regions.includes(r.id))
      .flatMap((r) => r.reasons),
  ),
])

async function attempt(work: () => Promise<unknown>): Promise<void> {
  refused.value = null
  try {
    await work()
    await changed()
  } catch (error) {
    refused.value = asRefused(error)
  }
}
function begin(): void {
  const [latest] = view.value?.certificates ?? []
  Object.assign(form, {
    number: '',
    reason: view.value?.claims ?? latest?.reason ?? '',
    regions: [...(latest?.regions ?? [])],
    from: '',
    to: '',
  })
  adding.value = true
}
const record = (): Promise<void> =>
  attempt(async () => {
    await call('PUT', api.value + path.value, {
      code: null,
      number: form.number,
      reason: form.reason,
      regions: form.regions,
      from: form.from,
      to: form.to || null,
    })
    adding.value = false
  })
const fileTo = (certificate: string, name: string): string =>
  `${path.value}/files?${new URLSearchParams({ certificate, name }).toString()}`
const nameOf = (region: string): string => view.value?.regions.find((r) => r.id === region)?.name ?? region
</script>

<template>
  <section v-if="view" class="certificates" aria-label="Certificates">
    <RefusedNote :refused="refused" />
    <table v-if="view.certificates.length > 0" class="sheet">
      <thead>
        <tr>
          <th scope="col">Certificate</th>
          <th scope="col">For</th>
          <th scope="col">In</th>
          <th scope="col">From</th>
          <th scope="col">To</th>
          <th scope="col">Files</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="each in view.certificates" :key="each.code" :data-certificate="each.code">
          <td class="strong">{{ each.number }}</td>
          <td>{{ each.reason.replaceAll('-', ' ') }}</td>
          <td>{{ each.regions.map(nameOf).join(', ') }}</td>
          <td>{{ each.from }}</td>
          <td>{{ each.to ?? 'no end' }}</td>
          <td>
            <AttachedFiles :files="each.files" :of="each.number" :to="(name) => fileTo(each.code, name)" />
          </td>
        </tr>
      </tbody>
    </table>
    <form v-if="adding" class="new" @submit.prevent="record">
      <label>Number <input v-model="form.number" required maxlength="100" autofocus /></label>
      <label
        >In
        <select v-model="form.regions" multiple required size="3" aria-label="In which regions">
          <option v-for="region in view.regions" :key="region.id" :value="region.id">
            {{ region.name }}
          </option>
        </select></label
      >
      <label
        >For <input v-model="form.reason" list="reasons" required maxlength="60" /><datalist id="reasons">
          <option v-for="reason in reasons" :key="reason" :value="reason" /></datalist
      ></label>
      <label>From <input v-model="form.from" type="date" required /></label>
      <label>To <input v-model="form.to" type="date" :min="form.from" /></label>
      <button class="do small first" type="submit">Record the certificate</button>{{ ' ' }}
      <button class="plain" type="button" @click="adding = false">Not now</button>
    </form>
    <button v-else class="do small" type="button" @click="begin">Record a certificate of {{ name }}</button>
  </section>
  <RefusedNote v-else :refused="notRead" />
</template>

<style scoped>
.certificates {
  grid-column: 1 / -1;
}
.sheet {
  margin-bottom: 8px;
  max-width: 1000px;
}
.new {
  display: flex;
  gap: 14px;
  align-items: end;
  flex-wrap: wrap;
  font-size: 14px;
}
.new label {
  display: grid;
  gap: 2px;
  color: var(--soft);
}
.new input,
.new select {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 6px;
  min-height: 27px;
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
</style>
