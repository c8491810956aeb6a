import { defineStore } from 'pinia'
import { readonly, ref } from 'vue'
import { DELETE, GET, POST, body, useCsrf } from '@/api/client'
import type { Person } from '@/api/types'

export const useSession = defineStore('session', () => {
  const person = ref<Person | null>(null)

  function begin(session: { person: Person; csrf: string }): void {
    person.value = session.person
    useCsrf(session.csrf)
  }

  /** Takes up a session that the browser still has; false when nobody is signed in. */
  async function resume(): Promise<boolean> {
    if (person.value) return true
    try {
      begin(await body(GET('/api/session')))
      return true
    } catch {
      return false
    }
  }

  async function signIn(signInName: string, password: string): Promise<void> {
    begin(await body(POST('/api/session', { body: { sign_in: signInName, password } })))
  }

  async function signOut(): Promise<void> {
    await body(DELETE('/api/session'))
    person.value = null
    useCsrf('')
  }

  return { person: readonly(person), resume, signIn, signOut }
})
