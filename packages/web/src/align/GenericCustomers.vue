<script setup lang="ts">
import type { GenericView } from '@axion/contract'
import { computed } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useAttempt } from '../shell/useAttempt.ts'
import { useView } from '../shell/useView.ts'

/** Whom the customers of a source count as whom the baseline does not know: each as itself, or all as one that stands for many. */
const { api, changed, entity } = useMonth()
const { view, refused: notRead } = useView<GenericView>(() => '/align/generic')
const { refused, attempt } = useAttempt()
const systems = computed(() =>
  (view.value?.systems ?? []).filter(({ party }) => party !== null || (view.value?.choices.length ?? 0) > 0),
)
const put = (systemId: string, party: string): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}/align/generic`, { systemId, party: party || null })
    await changed()
  })
/** What becomes of exemptions that the source holds by itself. */
function meaning({ party, exempt, exemptNames }: GenericView['systems'][number]): string {
  if (exempt === 0) return party === null ? '' : 'It holds none of them to be exempt.'
  const who = `${exemptNames.slice(0, 3).join(', ')}${exempt > 3 ? ` and ${exempt - 3} more` : ''}`
  return party === null
    ? `${who} ${exempt === 1 ? 'is' : 'are'} exempt there: as one of many, nobody is.`
    : `${who}, exempt there, ${exempt === 1 ? 'is' : 'are'} taxed: who stands for many cannot be exempt. Agree upon ${exempt === 1 ? 'that customer' : 'such a customer'} to tell it apart.`
}
</script>

<template>
  <div v-if="systems.length > 0" class="generic" data-generic>
    <p v-for="one in systems" :key="one.systemId">
      <label
        >Customers of {{ one.name }} whom the baseline does not know<template v-if="one.customers > 0"
          >, {{ one.customers }} by now,</template
        >
        count as
        <select
          :value="one.party ?? ''"
          :aria-label="`Customers of ${one.name} count as`"
          :disabled="entity.role === 'viewer'"
          @change="put(one.systemId, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">themselves</option>
          <option v-for="each in view?.choices" :key="each.id" :value="each.id">{{ each.name }}</option>
        </select></label
      >{{ ' ' }}
      <span class="soft">{{ meaning(one) }}</span>
    </p>
    <span v-if="refused" class="breaks" role="alert">{{ refused.says }} {{ refused.mend }}</span>
  </div>
  <RefusedNote v-else :refused="notRead" />
</template>

<style scoped src="./choice.css"></style>

<style scoped>
.generic {
  margin: 6px 0 0;
  font-size: 14px;
}
.generic p {
  margin: 4px 0;
}
</style>
