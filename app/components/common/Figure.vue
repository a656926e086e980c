<script setup lang="ts">
import { computed } from 'vue'
import { amountParts, currencySign } from '~/utils/format'

/** An amount: cents lighter, true minus, credit marked Cr, nothing as a dot. */
const props = defineProps<{
  amount: number
  currency: string
  whole?: boolean
  cr?: boolean
  sign?: boolean
  zero?: boolean
}>()
const parts = computed(() => amountParts(props.amount, props.currency, !props.whole))
</script>

<template>
  <span v-if="amount === 0 && !zero" class="none">·</span>
  <span v-else class="whitespace-nowrap"
    ><template v-if="amount < 0 && !cr">−</template
    ><template v-if="sign">{{ currencySign(currency) }}&nbsp;</template>{{ parts.units
    }}<span class="cents">{{ parts.cents }}</span
    ><template v-if="cr && amount < 0">&nbsp;Cr</template></span
  >
</template>
