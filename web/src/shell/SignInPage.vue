<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ApiError, GET, body } from '@/api/client'
import type { SignOnOffer } from '@/api/types'
import { useSession } from './session'
import { useThemeChoice } from './useThemeChoice'

useThemeChoice()
const session = useSession()
const router = useRouter()
const route = useRoute()
const name = ref('')
const first = ref<{ focus: () => void } | null>(null)
// At once and once only: a field that takes the focus later would get what is typed into the next.
onMounted(() => first.value?.focus())
const password = ref('')
const wrong = ref('')
const to = computed(() => (typeof route.query.to === 'string' && route.query.to.startsWith('/') ? route.query.to : '/'))
const isOut = computed(() => route.query.out !== undefined)

// The team's provider, if it has one, and what an attempt to sign on by it ended with.
const offer = shallowRef<SignOnOffer | null>(null)
onMounted(async () => {
  const trouble = typeof route.query.trouble === 'string' ? route.query.trouble : undefined
  offer.value = await body(GET('/api/sign-on', { params: { query: { trouble } } })).catch(() => null)
  if (offer.value?.trouble) wrong.value = `${offer.value.trouble.message} ${offer.value.trouble.hint}`
})

async function submit(): Promise<void> {
  wrong.value = ''
  try {
    await session.signIn(name.value, password.value)
    await router.push(to.value)
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    wrong.value = `${error.message} ${error.hint}`
  }
}
</script>

<template>
  <main class="page">
    <form class="sheet" @submit.prevent="submit">
      <h1>Dastan</h1>
      <p class="lead">The report is a sentence.</p>
      <v-text-field ref="first" v-model="name" label="Name" name="name" autocomplete="username" />
      <v-text-field
        v-model="password"
        label="Password"
        name="password"
        type="password"
        autocomplete="current-password"
      />
      <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
      <p v-else-if="isOut" class="soft note" role="status">
        You are signed out here.
        <template v-if="offer?.caption"
          >{{ offer.caption }} may still know you: <a href="/api/sign-on/leave">sign out there too</a>.</template
        >
      </p>
      <v-btn type="submit" variant="flat" color="primary" height="34" block>Sign in</v-btn>
      <v-btn
        v-if="offer?.caption"
        :href="`/api/sign-on/begin?to=${encodeURIComponent(to)}`"
        variant="outlined"
        height="34"
        block
        >Come in by {{ offer.caption }}</v-btn
      >
      <p v-else-if="offer" class="soft note">
        The demo prints its people and their passwords where it was started. Elsewhere an administrator makes you a link
        to come in by.
      </p>
    </form>
  </main>
</template>

<style scoped src="./door.css" />
