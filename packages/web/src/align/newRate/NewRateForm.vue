<script setup lang="ts">
import type { NewRate, NewRateGround } from '@axion/contract'
import { TIE_WORDS } from '@axion/core'
import { LEVELS } from '@axion/core'
import { computed, ref, watch } from 'vue'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import { readOnce } from '../../shell/reading.ts'
import { useAttempt } from '../../shell/useAttempt.ts'
import { emptyDraft, percentInAll, requestOf } from './draft.ts'
import RefusedNote from '../../shell/RefusedNote.vue'

/** A rate entered whole: what is charged together, a place that is new with its bounds and percent, whose tax it is, the account, the registration, and from when. */
const { api, month, changed } = useMonth()
const { refused, busy, attempt } = useAttempt()
const open = ref(false)
const ground = ref<NewRateGround | null>(null)
const draft = ref(emptyDraft(month.value))
async function begin(): Promise<void> {
  draft.value = emptyDraft(month.value)
  await attempt(async () => {
    ground.value = await readOnce<NewRateGround>(`${api.value}/new-rate`)
    open.value = true
  })
}
const known = computed(
  () => ground.value?.agencies.find((agency) => agency.code === draft.value.agency) ?? null,
)
const needsRounding = computed(
  () =>
    draft.value.withPlace && !ground.value?.places.find((place) => place.code === draft.value.parent)?.rounds,
)
const total = computed(() => (ground.value ? percentInAll(draft.value, ground.value) : ''))
/** What the new place lies in is, until somebody says otherwise, what it is charged together with. */
watch(
  () => draft.value.jurisdictions.at(-1),
  (code) => {
    const place = ground.value?.places.find((one) => one.code === code)
    if (!place) return
    draft.value.parent ||= place.code
    draft.value.country ||= place.country
    draft.value.region ||= place.region ?? ''
  },
)
const keep = (): Promise<void> =>
  attempt(async () => {
    const body: NewRate = requestOf(draft.value, {
      isKnown: known.value !== null,
      needsRounding: needsRounding.value,
    })
    await call('POST', `${api.value}/new-rate`, body)
    open.value = false
    await changed()
  })
</script>

<template>
  <div class="new-rate">
    <RefusedNote :refused="open ? null : refused" />
    <button v-if="!open" class="plain" type="button" data-new-rate @click="begin">
      a new rate, with its place, agency and account
    </button>
    <v-dialog v-model="open" max-width="920" aria-label="A new rate">
      <form v-if="ground" class="dialog fielded" data-rate-form @submit.prevent="keep">
        <h2>A new rate</h2>
        <RefusedNote :refused="refused" />
        <div class="fields">
          <label>Code <input v-model="draft.code" required maxlength="60" pattern="\S+" autofocus /></label>
          <label class="wide">Name <input v-model="draft.name" required maxlength="200" /></label>
          <label>From <input v-model="draft.from" type="date" required /></label>
          <label>Until <input v-model="draft.to" type="date" :min="draft.from" /></label>
        </div>
        <fieldset>
          <legend>Charged together with</legend>
          <div class="places" tabindex="0" role="region" aria-label="Places that the rate is of">
            <label v-for="place in ground.places.filter((one) => one.percent !== null)" :key="place.code"
              ><input v-model="draft.jurisdictions" type="checkbox" :value="place.code" /> {{ place.name }}
              <span class="soft">{{ place.percent }} %</span></label
            >
          </div>
        </fieldset>
        <label class="check"
          ><input v-model="draft.withPlace" type="checkbox" data-with-place /> and a place that is new
          here</label
        >
        <template v-if="draft.withPlace">
          <div class="fields">
            <label>Its code <input v-model="draft.placeCode" required maxlength="60" pattern="\S+" /></label>
            <label class="wide">Its name <input v-model="draft.placeName" required maxlength="200" /></label>
            <label
              >Level
              <select v-model="draft.level">
                <option v-for="level in LEVELS" :key="level" :value="level">{{ level }}</option>
              </select></label
            >
            <label
              >Lies in
              <select v-model="draft.parent">
                <option value="">no place of the baseline</option>
                <option v-for="place in ground.places" :key="place.code" :value="place.code">
                  {{ place.name }}
                </option>
              </select></label
            >
            <label
              >Percent <input v-model="draft.percent" required inputmode="decimal" maxlength="12" class="n"
            /></label>
            <label>Country <input v-model="draft.country" required maxlength="2" placeholder="XA" /></label>
            <label>Region <input v-model="draft.region" maxlength="6" placeholder="XA-WN" /></label>
            <label class="wide"
              >Postal codes, apart by spaces; all of the region without
              <input v-model="draft.postalCodes" maxlength="2000"
            /></label>
          </div>
          <div v-if="draft.jurisdictions.length > 0" class="ontop">
            <span class="soft">It is computed on the tax of</span>
            <label v-for="code in draft.jurisdictions" :key="code"
              ><input v-model="draft.onTopOf" type="checkbox" :value="code" />
              {{ ground.places.find((one) => one.code === code)?.name }}</label
            >
            <span class="soft">too</span>
          </div>
          <div v-if="needsRounding" class="fields">
            <label
              >Rounded by
              <select v-model="draft.roundingLevel">
                <option value="document">document</option>
                <option value="line">line</option>
                <option value="unit">unit</option>
              </select></label
            >
            <label
              >and
              <select v-model="draft.roundingUnit">
                <option value="component">component</option>
                <option value="combined">combined rate</option>
              </select></label
            >
            <label
              >and
              <select v-model="draft.tie">
                <option v-for="(words, tie) in TIE_WORDS" :key="tie" :value="tie">{{ words }}</option>
              </select></label
            >
          </div>
          <div class="fields">
            <label
              >Agency
              <select v-model="draft.agency">
                <option value="">a new one</option>
                <option v-for="agency in ground.agencies" :key="agency.code" :value="agency.code">
                  {{ agency.name }}
                </option>
              </select></label
            >
            <p v-if="known" class="wide soft known">
              {{
                known.account
                  ? `Its tax is owed on ${known.account}`
                  : 'It has no account yet: Align says so'
              }}{{ known.registered ? `, registered as ${known.registered}` : ', not registered' }}.
            </p>
            <template v-else>
              <label
                >Its code <input v-model="draft.agencyCode" required maxlength="60" pattern="\S+"
              /></label>
              <label class="wide"
                >Its name <input v-model="draft.agencyName" required maxlength="200"
              /></label>
              <label class="wide"
                >Owed on
                <select v-model="draft.account" required>
                  <option value="" disabled>choose the liability account</option>
                  <option v-for="account in ground.accounts" :key="account.number" :value="account.number">
                    {{ account.number }} {{ account.name }}
                  </option>
                </select></label
              >
              <label
                >Registered as <input v-model="draft.registration" maxlength="60" placeholder="not yet"
              /></label>
            </template>
          </div>
        </template>
        <p class="soft">
          <b v-if="total">{{ total }} % in all.</b> It is taken into the baseline at once, stands among the
          latest changes, and is taken back in one act; every month is proved anew.
        </p>
        <div class="actions">
          <button type="submit" class="do first" :disabled="busy">Take it into the baseline</button>
          <button type="button" class="do" @click="open = false">Not now</button>
        </div>
      </form>
    </v-dialog>
  </div>
</template>

<style scoped>
.dialog {
  max-height: calc(100vh - 60px);
  overflow: auto;
}
.new-rate {
  margin: 8px 0;
  font-size: 14px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 8px 14px;
  margin: 8px 0;
}
.fields label {
  display: grid;
  gap: 2px;
  font-size: 13.5px;
  color: var(--soft);
}
.wide {
  grid-column: span 2;
}
.known {
  grid-column: span 3;
  align-self: end;
  margin: 0 0 3px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 8px 0;
}
legend {
  padding: 0;
  color: var(--soft);
  font-size: 13.5px;
}
.places {
  max-height: 110px;
  overflow: auto;
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 2px 14px;
  border: 1px solid var(--rule);
  padding: 6px 8px;
}
.check {
  display: block;
  margin: 6px 0;
}
.ontop {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  font-size: 14px;
}
@media (max-width: 760px) {
  .fields,
  .places {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
