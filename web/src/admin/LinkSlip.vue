<script setup lang="ts">
// A link to hand to its person: one that is shown once and opens once, or the page to sign on from.
import { useClipboard } from '@vueuse/core'
import { computed } from 'vue'

const props = defineProps<{ path: string; name: string; provider?: string | null }>()
const emit = defineEmits<{ close: [] }>()
const address = computed(() => `${window.location.origin}${props.path}`)
const { copy, copied, isSupported } = useClipboard()
</script>

<template>
  <v-dialog aria-label="A link to come in by" :model-value="true" width="520" @update:model-value="emit('close')">
    <v-card>
      <div class="paper">
        <h2>A link for {{ name }}</h2>
        <p v-if="props.path === '/sign-in'" class="sentence">They come in there by {{ provider }}, from now on.</p>
        <p v-else class="sentence">It opens once, within seven days, and is not shown again.</p>
        <v-textarea :model-value="address" label="Link" readonly rows="2" auto-grow />
        <footer>
          <v-btn v-if="isSupported" variant="flat" color="primary" @click="copy(address)">{{
            copied ? 'Copied' : 'Copy'
          }}</v-btn>
          <v-btn @click="emit('close')">Done</v-btn>
        </footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="../workspace/keeping/slip.css" />
