<script setup lang="ts">
// Coming in by a link: a person chooses a password, and is signed in.
import { onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { ApiError, GET, body } from '@/api/client'
import { useSession } from './session'
import { useThemeChoice } from './useThemeChoice'

const props = defineProps<{ token: string }>()
useThemeChoice()
const session = useSession()
const router = useRouter()
const person = shallowRef<{ name: string; sign_in: string } | null>(null)
const password = ref('')
const again = ref('')
const wrong = ref('')

function tell(error: unknown): void {
  if (!(error instanceof ApiError)) throw error
  wrong.value = `${error.message} ${error.hint}`
}

onMounted(() =>
  body(GET('/api/welcome/{token}', { params: { path: { token: props.token } } }))
    .then((found) => (person.value = found))
    .catch(tell),
)

/** At once, and not when the browser says that it is seen: somebody may write in the other field by then. */
function takeFocus(): void {
  document.querySelector<HTMLInputElement>('input[type=password]')?.focus()
}

async function choose(): Promise<void> {
  wrong.value = ''
  if (password.value !== again.value) {
    wrong.value = 'The two are not the same. Write it twice alike.'
    return
  }
  await session
    .comeIn(props.token, password.value)
    .then(() => router.push('/'))
    .catch(tell)
}
</script>

<template>
  <main class="page">
    <form class="sheet" @submit.prevent="choose">
      <h1>Dastan</h1>
      <template v-if="person">
        <p class="lead">Welcome, {{ person.name }}.</p>
        <p class="note">
          You sign in as <strong>{{ person.sign_in }}</strong>. Choose a password of ten characters or more.
        </p>
        <input
          class="unseen"
          type="text"
          name="username"
          autocomplete="username"
          :value="person.sign_in"
          tabindex="-1"
          aria-hidden="true"
          readonly
        />
        <v-text-field
          v-model="password"
          label="Password"
          type="password"
          autocomplete="new-password"
          @vue:mounted="takeFocus"
        />
        <v-text-field v-model="again" label="The same again" type="password" autocomplete="new-password" />
      </template>
      <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
      <v-btn v-if="person" type="submit" variant="flat" color="primary" height="34" block>Come in</v-btn>
      <router-link v-else-if="wrong" to="/sign-in">Sign in</router-link>
    </form>
  </main>
</template>

<style scoped src="./door.css" />
