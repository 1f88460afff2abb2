<script setup lang="ts">
import { ref, watch } from 'vue'
import { cellOfPlaces, placesOf, type PlaceDraft } from './words.ts'

/** Where a jurisdiction is: places, each as narrow as it is filled in; or postal codes, pasted as they stand in a list. */
const cell = defineModel<string>({ required: true })
const EMPTY: PlaceDraft = { country: '', region: '', city: '', postalCode: '', plus4: '' }
const places = ref<PlaceDraft[]>(placesOf(cell.value))
if (places.value.length === 0) places.value = [{ ...EMPTY }]
watch(places, (now) => (cell.value = cellOfPlaces(now)), { deep: true })
const FIELDS = [
  { name: 'country', label: 'Country', longest: 2, hint: 'XA' },
  { name: 'region', label: 'Region', longest: 6, hint: 'XA-WN' },
  { name: 'city', label: 'City', longest: 200, hint: '' },
  { name: 'postalCode', label: 'Postal code', longest: 12, hint: '' },
  { name: 'plus4', label: 'Further digits', longest: 9, hint: '0000-0499' },
] as const
/** Another place is in the same country and region as the one before. */
function add(): void {
  const last = places.value.at(-1) ?? EMPTY
  places.value.push({ ...EMPTY, country: last.country, region: last.region })
}
/** A list of postal codes is one place each, from the one that it is pasted into on. */
function paste(at: number, event: ClipboardEvent): void {
  const codes = (event.clipboardData?.getData('text') ?? '').split(/[\s,;]+/).filter(Boolean)
  const own = places.value[at]
  if (codes.length < 2 || !own) return
  event.preventDefault()
  places.value.splice(at, 1, ...codes.map((postalCode) => ({ ...own, postalCode, plus4: '' })))
}
</script>

<template>
  <div class="covers" role="group" aria-label="Covers">
    <div class="rows" tabindex="0" role="region" aria-label="Places that it covers">
      <p v-for="(place, at) in places" :key="at" :data-place="at">
        <input
          v-for="field in FIELDS"
          :key="field.name"
          v-model="place[field.name]"
          :class="field.name"
          :aria-label="`${field.label} of place ${at + 1}`"
          :placeholder="at === 0 ? field.hint || field.label : field.label"
          :maxlength="field.longest"
          :required="field.name === 'country'"
          @paste="field.name === 'postalCode' && paste(at, $event)"
        />
        <button
          v-if="places.length > 1"
          type="button"
          class="plain"
          :aria-label="`Take place ${at + 1} off`"
          @click="places.splice(at, 1)"
        >
          take off
        </button>
      </p>
    </div>
    <p class="soft">
      <button type="button" class="plain" @click="add">another place</button>
      What is left empty does not narrow it. A list of postal codes is pasted into one.
    </p>
  </div>
</template>

<style scoped>
.rows {
  max-height: 168px;
  overflow: auto;
}
.rows p {
  display: grid;
  grid-template-columns: 70px 90px minmax(0, 1fr) 110px 110px 60px;
  gap: 6px;
  margin: 0 0 4px;
}
.soft {
  font-size: 13.5px;
  margin: 2px 0 0;
}
.soft .plain {
  margin-right: 10px;
}
@media (max-width: 760px) {
  .rows p {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
