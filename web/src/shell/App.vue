<script setup lang="ts">
import { storeToRefs } from 'pinia'
import { useRouter } from 'vue-router'
import { ApiError } from '@/api/client'
import { partMissing } from './later'
import { useNotice } from './notice'
import { useProblem } from './problem'

const store = useProblem()
const notice = useNotice()
const { problem, again } = storeToRefs(store)
const router = useRouter()
// A page that could not be gone to: what the server said, or that the page's code could not be had.
router.onError((error, to) =>
  store.tell(error instanceof ApiError ? error : partMissing(), () => router.push(to.fullPath)),
)
</script>

<template>
  <v-app>
    <router-view />
    <div v-if="problem" class="problem" role="alert">
      <div>
        <strong>{{ problem.message }}</strong> {{ problem.hint }}
      </div>
      <v-btn v-if="again.length" variant="flat" color="primary" @click="store.tryAgain">Try again</v-btn>
      <v-btn @click="store.clear">Put away</v-btn>
    </div>
    <p v-if="notice.words" class="notice" role="status">{{ notice.words }}</p>
  </v-app>
</template>

<style scoped>
.notice {
  position: fixed;
  bottom: 44px;
  left: 50%;
  transform: translateX(-50%);
  z-index: 2900;
  margin: 0;
  padding: 6px 14px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-rule));
  box-shadow: 0 4px 14px rgb(0 0 0 / 14%);
}

.problem {
  position: fixed;
  bottom: 44px;
  left: 50%;
  transform: translateX(-50%);
  z-index: 3000;
  display: flex;
  gap: 12px;
  align-items: center;
  max-width: min(720px, 92vw);
  padding: 8px 10px 8px 16px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-error));
  border-left-width: 4px;
  box-shadow: 0 6px 20px rgb(0 0 0 / 18%);
}
</style>
