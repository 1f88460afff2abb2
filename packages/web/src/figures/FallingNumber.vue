<script setup lang="ts">
import { scaleBand, scaleLinear } from 'd3-scale'
import { computed } from 'vue'

/** The month as one falling number: a bar for each time it moved, the newest standing out. */
const props = defineProps<{ history: readonly { readonly at: string; readonly share: number }[] }>()
const WIDTH = 132
const HEIGHT = 44
const bars = computed(() => {
  const x = scaleBand<number>()
    .domain(props.history.map((_, at) => at))
    .range([0, Math.min(WIDTH, props.history.length * 14)])
    .paddingInner(0.2)
  const y = scaleLinear()
    .domain([0, Math.max(0.001, ...props.history.map((h) => h.share))])
    .range([1.5, HEIGHT])
  return props.history.map(({ share }, at) => ({
    at,
    x: x(at) ?? 0,
    width: x.bandwidth(),
    height: share === 0 ? 1.5 : y(share),
    last: at === props.history.length - 1,
  }))
})
</script>

<template>
  <figure
    v-if="history.length > 1"
    class="falling"
    :aria-label="`Tax not proved, over its last ${history.length} changes`"
  >
    <svg :width="WIDTH" :height="HEIGHT" role="img" aria-hidden="true">
      <rect
        v-for="bar in bars"
        :key="bar.at"
        :x="bar.x + WIDTH - bars.length * 14"
        :y="HEIGHT - bar.height"
        :width="bar.width"
        :height="bar.height"
        :class="{ last: bar.last }"
      />
    </svg>
    <figcaption>not proved,<br />change by change</figcaption>
  </figure>
</template>

<style scoped>
.falling {
  display: flex;
  gap: 10px;
  align-items: flex-end;
  margin: 0;
}
rect {
  fill: var(--hair);
}
rect.last {
  fill: var(--rust);
}
figcaption {
  font-size: 12px;
  color: var(--soft);
  line-height: 1.25;
}
</style>
