<script setup lang="ts">
import type { WaysView } from '@axion/contract'
import { TIE_WORDS } from '@axion/core'
import { ref } from 'vue'
import { count } from '../figures/format.ts'
import { useMonth } from '../shell/month.ts'
import { readOnce } from '../shell/reading.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** What a system's own documents show of its ways, beside what its settings claim: worked out when somebody asks. */
const props = defineProps<{ system: string; name: string }>()
const { api } = useMonth()
const view = ref<WaysView | null>(null)
const { busy, refused, attempt } = useAttempt()
type Place = NonNullable<WaysView['claims']>
const say = ({ level, unit, tie }: Place): string =>
  `by ${level}, ${unit === 'combined' ? 'all components together' : 'each component by itself'}, ${TIE_WORDS[tie]}`

function ends({ after, until }: WaysView['cutOffs'][number]): string {
  if (after === null)
    return until === null
      ? 'no sale tells when its day ends'
      : `its day ends by ${until} at the latest, or at midnight`
  return until === null
    ? `its day ends after ${after}`
    : `its day ends after ${after}, and by ${until} at the latest`
}

async function look(event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open || view.value || busy.value) return
  await attempt(
    async () => void (view.value = await readOnce<WaysView>(`${api.value}/systems/${props.system}/ways`)),
  )
}
</script>

<template>
  <details class="ways" :data-ways="system" @toggle="look">
    <summary>What its documents show of its rounding and rates</summary>
    <RefusedNote v-if="refused" :refused="refused" />
    <p v-else-if="!view" class="soft">Working it out from {{ name }}’s own documents</p>
    <p v-else-if="view.regions.length === 0" class="soft">
      Nothing yet: it has no documents in the month that could show anything.
    </p>
    <template v-else>
      <p class="soft">
        From {{ count(view.documents, 'document')
        }}<template v-if="view.total > view.documents"> of {{ view.total }}</template
        >. Its settings
        {{ view.claims ? `say that it rounds ${say(view.claims)}` : 'do not say where it rounds' }}.
      </p>
      <div v-for="region in view.regions" :key="region.name" class="region" :data-region="region.name">
        <h4>
          {{ region.name }} <small class="soft">{{ count(region.documents, 'document') }}</small>
        </h4>
        <p v-if="region.places.length > 0">
          It rounds {{ region.places.slice(0, 3).map(say).join('; or ')
          }}<span v-if="region.places.length > 1" class="soft"
            >: its documents cannot tell these {{ region.places.length }} apart</span
          >. <b v-if="region.claimHolds === false" class="breaks">Not as its settings say.</b>
        </p>
        <p v-else>
          No place of rounding reproduces all of them. Nearest is
          {{ region.nearest ? say(region.nearest) : 'none' }}; it leaves {{ region.unpredicted.join(', ')
          }}<template v-if="region.more > 0"> and {{ region.more }} more</template>.
          <b v-if="region.changedOn" class="breaks">Something changed there on {{ region.changedOn }}.</b>
        </p>
        <p v-for="rate in region.rates" :key="rate.rate">
          <b class="breaks">{{ rate.rate }}</b> {{ rate.as.join(', or ') }}
        </p>
      </div>
      <p v-for="each in view.cutOffs" :key="each.outlet" :data-cut-off="each.outlet">
        {{ each.outlet }} <small class="soft">{{ count(each.documents, 'sale') }}</small>: {{ ends(each) }};
        its settings say {{ each.claims ?? 'midnight' }}.
        <b v-if="!each.claimHolds" class="breaks">Not as its settings say.</b
        ><template v-if="each.odd.length > 0"> No end of the day fits {{ each.odd.join(', ') }}.</template>
      </p>
      <p v-if="view.onDefault && view.onDefault.items.length > 0">
        On the default code {{ view.onDefault.code }}, and charged so in
        {{ count(view.onDefault.documents, 'document') }}:
        <b class="breaks">{{ view.onDefault.items.join(', ') }}</b>
      </p>
    </template>
  </details>
</template>

<style scoped>
.ways {
  margin-top: 8px;
  font-size: 14px;
}
summary {
  cursor: pointer;
  color: var(--soft);
}
.region {
  margin: 6px 0;
  padding-left: 10px;
  border-left: 2px solid var(--rule);
}
h4 {
  font-weight: 600;
  margin: 0;
}
.region p {
  margin: 0;
}
.breaks {
  color: var(--rust);
}
</style>
