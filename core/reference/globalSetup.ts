import { spawn } from 'node:child_process'
import { createInterface } from 'node:readline'
import { fileURLToPath } from 'node:url'
import type { TestProject } from 'vitest/node'

declare module 'vitest' {
  interface ProvidedContext {
    scipyUrl: string
  }
}

/**
 * Starts the one numpy/scipy process of the test run; the run fails with the install command where scipy is
 * missing.
 */
export default async function (project: TestProject) {
  const script = fileURLToPath(new URL('./scipy_service.py', import.meta.url))
  const python = process.env.KOVRIN_PYTHON ?? '/usr/bin/python3'
  const child = spawn(python, [script], { stdio: ['ignore', 'pipe', 'pipe'] })
  let complaint = ''
  child.stderr.on('data', (text: Buffer) => {
    complaint += text
  })
  const ready = await new Promise<{ port: number }>((resolve, reject) => {
    const fail = () =>
      reject(
        new Error(
          `scipy is not available (${complaint.trim().split('\n').pop()}). Install it: apt-get install python3-scipy`,
        ),
      )
    child.once('error', fail)
    child.once('exit', fail)
    createInterface(child.stdout).once('line', line => resolve(JSON.parse(line)))
  })
  project.provide('scipyUrl', `http://127.0.0.1:${ready.port}`)
  return () => {
    child.kill()
  }
}
