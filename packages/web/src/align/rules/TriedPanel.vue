<script setup lang="ts">
import type { RulesTried } from '@axion/contract'
import { computed } from 'vue'
import { useEvidence } from '../../evidence/useEvidence.ts'
import { count, useFormat } from '../../figures/format.ts'

/** What the list of rules would have changed, tried on what is there. */
const props = defineProps<{ tried: RulesTried }>()
const format = useFormat()
const evidence = useEvidence()
const figure = (text: string | null): string => (text === null ? 'not known' : format.value.amount(text))
const says = computed(() =>
  props.tried.changed === 0
    ? 'It would have changed no document'
    : `It would have changed ${count(props.tried.changed, 'document')}`,
)
</script>

<template>
  <section class="tried" data-tried aria-label="Tried on the past">
    <p>
      <b>{{ says }}</b> of the {{ tried.tried }}
      {{ tried.of > tried.tried ? `newest of ${tried.of}` : 'there are'
      }}<template v-if="tried.taxAfter !== null"
        >; the tax expected of them
        {{
          tried.taxBefore === tried.taxAfter
            ? `stays ${figure(tried.taxAfter)}`
            : `goes from ${figure(tried.taxBefore)} to ${figure(tried.taxAfter)}`
        }}
        {{ tried.currency }}</template
      >.
      <template v-if="tried.known.documents > 0"
        >Of {{ tried.known.documents }} the tax is known only then: {{ figure(tried.known.tax) }}
        {{ tried.currency }}. </template
      ><template v-if="tried.unknown > 0">Of {{ tried.unknown }} it is not known then. </template>
      <template v-if="tried.booked > 0"
        >{{ count(tried.booked, 'booking') }} would go elsewhere, and
        {{ tried.booked === 1 ? 'is' : 'are' }} offered in Post again.</template
      >
    </p>
    <div
      v-if="tried.documents.length > 0"
      class="scroll"
      tabindex="0"
      role="region"
      aria-label="Documents it would have changed"
    >
      <table class="sheet">
        <thead>
          <tr>
            <th scope="col">Document</th>
            <th scope="col">Of</th>
            <th scope="col">Party</th>
            <th scope="col">Date</th>
            <th scope="col">What changes</th>
            <th scope="col" class="n">Tax before</th>
            <th scope="col" class="n">Tax after</th>
            <th scope="col">In</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in tried.documents" :key="one.unit">
            <td>
              <button class="plain" type="button" @click="evidence.show({ of: 'total', unit: one.unit })">
                {{ one.number }}
              </button>
            </td>
            <td class="soft">{{ one.system }}</td>
            <td>{{ one.party }}</td>
            <td class="soft">{{ format.day(one.date) }}</td>
            <td class="what">
              <template v-if="one.lines.length === 0">as the document that it credits</template
              ><template v-for="(line, at) in one.lines" :key="at"
                >{{ at > 0 ? '; ' : '' }}{{ line.text }}:
                <template v-for="(change, n) in line.changes" :key="n"
                  >{{ n > 0 ? ', ' : '' }}<span class="soft">{{ change.before || 'nothing' }}</span> →
                  {{ change.after || 'nothing' }}</template
                ></template
              >
            </td>
            <td class="n">{{ figure(one.taxBefore) }}</td>
            <td class="n" :class="{ strong: one.taxAfter !== one.taxBefore }">{{ figure(one.taxAfter) }}</td>
            <td class="soft">{{ one.currency }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="tried.changed > tried.documents.length" class="soft">
      The first {{ tried.documents.length }} are shown, the newest first.
    </p>
  </section>
</template>

<style scoped>
.tried {
  margin: 8px 0 12px;
  font-size: 14.5px;
}
.scroll {
  max-height: 236px;
  margin-top: 6px;
}
.what {
  max-width: 460px;
}
</style>
