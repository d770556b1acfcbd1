import { useInputs } from './inputs'
import { useListen } from './listen'

/** Decibels SPL at 0 dBFS of the microphone in front; 0 while it was never calibrated. Each microphone has its own. */
export function useCalibration() {
  const listen = useListen()
  const inputs = useInputs()
  return computed({
    get: () => (listen.front ? inputs.channelOf(listen.front.microphone).calibration : 0),
    set: (calibration: number) => {
      if (listen.front) inputs.changeChannel(listen.front.microphone, { calibration })
    },
  })
}
