<script setup lang="ts">
import type { CopyView } from '@axion/contract'
import { computed } from 'vue'
import { count } from '../../figures/format.ts'

/** Whether what agencies say is agreed here as there: first what is to be looked at, then what stands otherwise. */
const props = defineProps<{ view: CopyView }>()
const fresh = computed(() => props.view.counts.new)
</script>

<template>
  <p class="verdict" data-verdict>
    <template v-if="view.same === 0 && view.rows.length === 0"
      ><strong>Nothing there.</strong> {{ view.from.name }} has no baseline yet</template
    >
    <template v-else-if="view.waiting > 0"
      ><strong>Not any more.</strong> {{ count(view.waiting, 'object') }} of {{ view.from.name }}
      {{ view.waiting === 1 ? 'is' : 'are' }} new or another there since something was taken</template
    >
    <template v-else-if="!view.taken && fresh > 0"
      ><strong>Not yet.</strong> {{ count(fresh, 'object') }} of {{ view.from.name }}
      {{ fresh === 1 ? 'is' : 'are' }} not here: agencies, places, rates and codes, nothing of a client’s
      own</template
    >
    <template v-else-if="view.counts.differs > 0"
      ><strong>Not in all.</strong> {{ count(view.counts.differs, 'object') }}
      {{ view.counts.differs === 1 ? 'is' : 'are' }} another here than in {{ view.from.name }}</template
    >
    <template v-else
      ><strong>In all.</strong> {{ count(view.same, 'object') }} {{ view.same === 1 ? 'is' : 'are' }} as in
      {{ view.from.name
      }}<template v-if="view.counts.own + view.counts.off > 0"
        >; {{ view.counts.own + view.counts.off }} left otherwise</template
      ></template
    >
  </p>
</template>
