<script setup lang="ts">
import type { Evidence } from '@axion/contract'
import { isSomewhere, sayCause } from '@axion/contract'
import { computed } from 'vue'
import { isNil, useFormat } from '../figures/format.ts'
import ChainLinkBox from './ChainLinkBox.vue'
import { sayDeparture } from './words.ts'

/** From source line to liability account, as small T-accounts joined by lines; the first link that breaks is where the work is. */
const props = defineProps<{ evidence: Extract<Evidence, { kind: 'chain' }> }>()
const emit = defineEmits<{ 'prove-anew': [] }>()
const format = useFormat()
const MISSING: Readonly<Record<string, string>> = {
  'not composed': 'Nothing of it is composed yet.',
  sent: 'It was sent; the ledger has not been pulled since.',
  failed: 'It failed, and nothing of it is in the ledger.',
  'in doubt': 'Nobody knows whether the ledger has it.',
}
const sentence = computed(() => {
  const { causes, proved, settled, settledWith, headline, chain } = props.evidence
  if (proved) return 'Stated, expected and booked agree, in the right account.'
  if (settled === 'cured') return `What was charged wrongly is given back: ${settledWith ?? ''}.`
  if (settled === 'kept')
    return 'Charged otherwise than expected. The difference is kept, with a reason that was reviewed.'
  const [cause] = causes
  const agrees = props.evidence.breaksAt === null
  if (!cause)
    return props.evidence.document.posted
      ? 'A draft, or left out: nothing of it is booked.'
      : `${agrees ? 'Stated and expected agree.' : 'What is stated is not what is expected.'} Documents of this kind are not posted yet.`
  if (headline === 'missing' && cause.kind === 'missing')
    return (
      MISSING[chain[2]?.silence ? 'not composed' : (chain[2]?.detail ?? '')] ??
      'It waits to be posted; nothing of it is in the ledger.'
    )
  return agrees && isSomewhere(cause)
    ? 'This part of the document agrees.'
    : sayCause(cause, format.value.longDay)
})
</script>

<template>
  <div class="chain" data-evidence="chain">
    <aside>
      <p class="soft">
        {{ evidence.document.number }} · {{ evidence.document.party }} ·
        {{ format.day(evidence.document.date) }}
      </p>
      <p class="sentence">{{ sentence }}</p>
      <div v-if="evidence.departures.length > 0" class="departs" role="alert" data-departures>
        <b>What is stored is not what it comes to.</b>
        <p v-for="(departure, at) in evidence.departures" :key="at">{{ sayDeparture(departure) }}</p>
        <p v-if="evidence.determined.isCurrent">
          <button type="button" class="plain" @click="emit('prove-anew')">Prove it anew</button>. If it comes
          back, this is a fault of Axion’s, to be reported.
        </p>
        <p v-else>The next pull proves it anew.</p>
      </div>
      <p v-if="evidence.causes.length > 1" class="soft">
        Equally:
        {{
          evidence.causes
            .slice(1)
            .map((c) => sayCause(c, format.longDay))
            .join(' ')
        }}
      </p>
      <p class="soft">{{ evidence.agency ?? 'All agencies' }}</p>
      <p v-if="evidence.chainCurrency !== evidence.currency" class="soft">
        Links in {{ evidence.chainCurrency
        }}<template v-if="evidence.exchangeRate"
          >, at {{ evidence.exchangeRate }} {{ evidence.currency }}</template
        >
      </p>
      <p v-for="(one, at) in evidence.kept" :key="at" class="soft" data-kept-there>
        {{ one.system }}
        <template v-if="one.amount === null">was never told of it</template
        ><template v-else
          >{{ one.cancelled ? 'has it as cancelled' : 'keeps it' }}, with {{ format.amount(one.amount) }}
          {{ one.currency }} of tax</template
        ><template v-if="one.address"
          >: <a :href="one.address" target="_blank" rel="noopener noreferrer">open it</a></template
        >
      </p>
      <p class="soft">As recorded on {{ format.instant(evidence.determined.at) }}</p>
      <slot />
    </aside>
    <div class="links">
      <template v-for="(link, at) in evidence.chain" :key="link.role">
        <div
          v-if="at > 0"
          class="between"
          :class="{
            broken: link.gap !== null && !isNil(link.gap),
            first: evidence.breaksAt === at,
            silent: link.gap === null,
          }"
        >
          <span v-if="link.gap !== null && !isNil(link.gap)">{{ format.signed(link.gap) }}</span>
          <span v-else-if="link.gapInBase !== null && !isNil(link.gapInBase)">{{
            format.signed(link.gapInBase)
          }}</span>
          <i />
          <small v-if="evidence.breaksAt === at"
            >breaks here{{
              isNil(link.gap ?? '0') && link.gapInBase ? `, in ${evidence.currency}` : ''
            }}</small
          >
        </div>
        <ChainLinkBox :link="link" :broken="evidence.breaksAt === at" :base="evidence.currency" />
      </template>
    </div>
  </div>
</template>

<style scoped>
.chain {
  display: grid;
  grid-template-columns: 250px 1fr;
  grid-template-rows: minmax(0, 1fr);
  min-height: 0;
}
aside {
  overflow-y: auto;
  padding: 4px 18px 8px 0;
  border-right: 1px solid var(--rule);
  display: flex;
  flex-direction: column;
  gap: 6px;
  font-size: 14px;
}
.departs {
  border-left: 3px solid var(--rust);
  padding-left: 8px;
}
.sentence {
  font-weight: 600;
  font-size: 16px;
  line-height: 1.3;
}
.links {
  display: grid;
  grid-template-columns:
    minmax(0, 1fr) auto minmax(0, 1fr) auto minmax(0, 1fr) auto minmax(0, 1fr)
    auto minmax(0, 1fr);
  padding-left: 16px;
  min-height: 0;
  grid-template-rows: minmax(0, 1fr);
}
.between {
  width: 44px;
  padding: 52px 4px 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  position: relative;
  font-size: 12.5px;
}
.between i {
  width: 100%;
  border-top: 2px solid var(--slate);
}
.between.broken i {
  border-top: 2px dashed var(--rust);
}
.between.silent i {
  border-top: 2px dotted var(--hair);
}
.between span {
  color: var(--rust);
  font-weight: 700;
  white-space: nowrap;
  position: absolute;
  top: 33px;
}
.between small {
  color: var(--rust);
  font-size: 11px;
  text-align: center;
  line-height: 1.1;
  margin-top: 3px;
}
@media (max-width: 760px) {
  .chain {
    grid-template-columns: 1fr;
  }
  .links {
    overflow-x: auto;
    grid-auto-columns: 180px;
  }
}
</style>
