import { speakEnglish } from '../../core/words/say'

export default defineNitroPlugin(() => speakEnglish())
