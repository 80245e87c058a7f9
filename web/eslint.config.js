import vue from 'eslint-plugin-vue'
import typescript from 'typescript-eslint'

import { layerRules } from './layers.js'

export default typescript.config(
  { ignores: ['dist/**', 'src/generated/**'] },
  ...typescript.configs.recommended,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: typescript.parser } } },
  {
    rules: {
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': ['error', { html: { void: 'always' } }],
      'vue/html-indent': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/multi-word-component-names': 'off',
      // Prettier breaks lines as it likes.
      'vue/html-closing-bracket-spacing': 'off',
    },
  },
  ...layerRules,
)
