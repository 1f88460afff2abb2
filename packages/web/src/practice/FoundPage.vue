<script setup lang="ts">
import { monthBefore } from '@axion/core'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { call } from '../shell/api.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useSession } from '../shell/session.ts'
import { slugOf } from '../shell/slug.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import { COUNTRIES, CURRENCIES, TIME_ZONES } from './choices.ts'
import EntityFields from './EntityFields.vue'
import PracticeBand from './PracticeBand.vue'

/** Founding a legal entity: what its books are reckoned by, and stays so; all else may be changed. */
document.title = 'found a legal entity · Axion'
const session = useSession()
const router = useRouter()
const { busy, refused, attempt } = useAttempt()
const name = ref('')
const id = ref('')
const country = ref('')
const otherCountry = ref('')
const currency = ref('')
const timeZone = ref(Intl.DateTimeFormat().resolvedOptions().timeZone)
const locale = ref(navigator.language)
const yearBegins = ref('')
/** Whether somebody wrote another address than the name gives. */
const own = ref(false)
watch(name, (now) => {
  if (!own.value) id.value = slugOf(now, 60)
})
const OTHER = 'other'

const found = (): Promise<void> =>
  attempt(async () => {
    await call('POST', '/api/entities', {
      id: id.value,
      name: name.value.trim(),
      country: country.value === OTHER ? otherCountry.value.toUpperCase() : country.value,
      currency: currency.value,
      timeZone: timeZone.value,
      locale: locale.value,
      yearBegins: Number(yearBegins.value),
    })
    await session.load()
    const today = session.entities.find((one) => one.id === id.value)?.today ?? ''
    await router.push({ name: 'connect', params: { entity: id.value, month: monthBefore(today) } })
  })
</script>

<template>
  <div>
    <PracticeBand />
    <main class="page">
      <div class="head">
        <div>
          <p class="question">Whose tax is to be kept?</p>
          <p class="verdict" data-verdict>
            <strong>Found a legal entity.</strong> One business, with one ledger
          </p>
        </div>
      </div>
      <p v-if="!session.view?.person.runsPractice" class="note bad">
        Legal entities are founded by whoever runs the practice. Ask them to found it and to add you to it.
      </p>
      <form v-else class="asks" @submit.prevent="found">
        <EntityFields v-model:name="name" v-model:locale="locale" v-model:year-begins="yearBegins">
          <label
            ><span>In addresses</span>
            <input
              v-model="id"
              name="id"
              required
              pattern="[a-z0-9][a-z0-9\-]{0,59}"
              title="Small letters, figures and dashes"
              maxlength="60"
              autocomplete="off"
              @input="own = true"
            />
            <small>Small letters, figures and dashes. It stays.</small></label
          >
          <label
            ><span>Home country</span>
            <select v-model="country" name="country" required>
              <option value="" disabled>choose</option>
              <option v-for="one in COUNTRIES" :key="one.code" :value="one.code">{{ one.name }}</option>
              <option :value="OTHER">another code</option>
            </select></label
          >
          <label v-if="country === OTHER"
            ><span>Its code</span>
            <input
              v-model="otherCountry"
              name="otherCountry"
              required
              pattern="[A-Za-z]{2}"
              title="Two letters"
              maxlength="2"
            />
            <small>Two letters, as addresses in its systems have it.</small></label
          >
          <label
            ><span>Base currency</span>
            <select v-model="currency" name="currency" required>
              <option value="" disabled>choose</option>
              <option v-for="one in CURRENCIES" :key="one.code" :value="one.code">
                {{ one.code }}, {{ one.name }}
              </option>
            </select>
            <small>What its ledger is kept in. It stays.</small></label
          >
          <label
            ><span>Time zone</span>
            <select v-model="timeZone" name="timeZone" required>
              <option v-for="one in TIME_ZONES" :key="one" :value="one">
                {{ one.replaceAll('_', ' ') }}
              </option>
            </select>
            <small>Where its days begin and end. Chosen as in this browser; it stays.</small></label
          >
        </EntityFields>
        <RefusedNote :refused="refused" />
        <p>
          <button class="do first" type="submit" :disabled="busy">
            {{ busy ? 'Founding it' : `Found ${name.trim() || 'it'}` }}
          </button>
        </p>
        <p class="soft">Next: connect its ledger, and what it sells with.</p>
      </form>
    </main>
  </div>
</template>

<style scoped>
.asks {
  --called: 190px;
  max-width: 720px;
  gap: 10px;
}
</style>
