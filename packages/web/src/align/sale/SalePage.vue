<script setup lang="ts">
import type { GridNames, SaleView } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useFormat, isNil } from '../../figures/format.ts'
import { useMonth } from '../../shell/month.ts'
import { useReading } from '../../shell/reading.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import AlignTabs from '../AlignTabs.vue'
import NameChoice from '../NameChoice.vue'
import SaleRows from './SaleRows.vue'

/** What tax a sale would bear: asked of the baseline and of every system's set-up at once. The question stands in the address. */
const { api, entity, month } = useMonth()
const route = useRoute()
const router = useRouter()
const format = useFormat()

const ASKED = [
  'country',
  'region',
  'city',
  'postalCode',
  'date',
  'sentFrom',
  'party',
  'item',
  'kind',
  'quantity',
  'amount',
  'inside',
] as const
type Asked = Record<(typeof ASKED)[number], string>
const fromAddress = (): Asked =>
  Object.fromEntries(ASKED.map((name) => [name, String(route.query[name] ?? USUAL[name] ?? '')])) as Asked
const USUAL: Partial<Asked> = { kind: 'goods', quantity: '1', inside: 'no', date: `${month.value}-15` }
const asked = ref(fromAddress())
watch(
  () => route.query,
  () => (asked.value = fromAddress()),
)
const isAsked = computed(() => typeof route.query['amount'] === 'string')
const { view, refused, loading } = useReading<SaleView>(
  () => {
    if (!isAsked.value) return null
    const given = ASKED.filter((name) => typeof route.query[name] === 'string' && route.query[name] !== '')
    const query = new URLSearchParams(given.map((name) => [name, String(route.query[name])]))
    return `${api.value}/sale?${query.toString()}`
  },
  (address) => address,
)
/** Where it may be sent from: the home address, and every location of the baseline. */
const { view: locations } = useReading<GridNames>(() => `${api.value}/align/locations/names?search=`)
const origins = computed(() => [{ id: 'home', name: 'the home address' }, ...(locations.value?.names ?? [])])
const ask = (): void => {
  const given = Object.entries(asked.value)
    .map(([name, value]) => [name, value.trim()] as const)
    .filter(([, value]) => value !== '')
  void router.replace({ query: Object.fromEntries(given) })
}
const otherwise = computed(
  () => view.value?.systems.filter(({ tax, gap }) => tax !== null && gap !== null && !isNil(gap)).length ?? 0,
)
const silent = computed(() => view.value?.systems.filter(({ tax }) => tax === null).length ?? 0)
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">What tax would this sale bear?</p>
        <p class="verdict" data-verdict>
          <template v-if="!isAsked"><strong>Ask.</strong> Say where, when, of what, and how much</template>
          <template v-else-if="refused"><strong>Not known.</strong> The question could not be read</template>
          <template v-else-if="!view || loading"><strong>Reading</strong></template>
          <template v-else-if="view.tax === null"
            ><strong>Not known.</strong> The baseline leaves it open</template
          >
          <template v-else
            ><strong>{{ format.amount(view.tax) }}</strong> {{ view.currency }} on
            {{ format.figure(view.net) }}, {{ format.figure(view.total) }} in all<template
              v-if="view.systems.length > 0"
              >;
              {{
                otherwise > 0
                  ? `${otherwise} of ${view.systems.length} set-ups would come to something else`
                  : silent > 0
                    ? `every set-up that says comes to the same, ${silent} ${silent === 1 ? 'does' : 'do'} not say`
                    : 'every set-up comes to the same'
              }}</template
            ></template
          >
        </p>
      </div>
    </div>
    <AlignTabs chosen="sale" />
    <RefusedNote :refused="refused" />
    <div class="both">
      <form class="asks" aria-label="A sale" @submit.prevent="ask">
        <label
          >Country
          <input
            v-model="asked.country"
            name="country"
            required
            maxlength="2"
            pattern="[A-Z]{2}"
            title="Two capital letters"
        /></label>
        <label
          >Region
          <input v-model="asked.region" name="region" maxlength="6" placeholder="with its country, XA-WN"
        /></label>
        <label>City <input v-model="asked.city" name="city" maxlength="200" /></label>
        <label>Postal code <input v-model="asked.postalCode" name="postalCode" maxlength="20" /></label>
        <label
          >Sent from
          <select v-model="asked.sentFrom" name="sentFrom">
            <option value="">not looked at</option>
            <option v-for="one in origins" :key="one.id" :value="one.id">{{ one.name }}</option>
          </select></label
        >
        <label>Day <input v-model="asked.date" name="date" type="date" required /></label>
        <label class="named"
          >Buyer
          <NameChoice
            v-model="asked.party"
            :first="view?.party ? [view.party] : []"
            names="/align/parties/names"
            label="Buyer"
            placeholder="anybody"
        /></label>
        <label class="named"
          >Item
          <NameChoice
            v-model="asked.item"
            :first="view?.item ? [view.item] : []"
            names="/align/items/names"
            label="Item"
            placeholder="choose the item"
        /></label>
        <label
          >As
          <select v-model="asked.kind" name="kind">
            <option value="goods">goods</option>
            <option value="service">a service</option>
            <option value="shipping">shipping</option>
          </select></label
        >
        <label
          >Quantity
          <input v-model="asked.quantity" name="quantity" required inputmode="decimal" maxlength="20"
        /></label>
        <label
          >Amount, {{ entity.currency }}
          <input
            v-model="asked.amount"
            name="amount"
            required
            inputmode="decimal"
            maxlength="20"
            placeholder="100.00"
        /></label>
        <label
          >Tax inside
          <select v-model="asked.inside" name="inside">
            <option value="no">no</option>
            <option value="yes">yes</option>
          </select></label
        >
        <button class="do first" type="submit">Ask</button>
      </form>
      <SaleRows v-if="view && isAsked" :view="view" />
      <p v-else-if="!isAsked" class="empty">
        <strong>Nothing is asked yet</strong>Nothing is kept of it: the question stands in the address, to be
        sent to somebody.
      </p>
    </div>
  </main>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 330px minmax(0, 1fr);
  gap: 20px;
  align-items: start;
}
.asks {
  --called: 96px;
}
label.named :deep(.name-choice) {
  max-width: none;
}
@media (max-width: 900px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
