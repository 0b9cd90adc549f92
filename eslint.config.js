// The linter of the page's scripts.

import js from "@eslint/js";

const BROWSER = [
  "AbortController",
  "CSS",
  "DOMParser",
  "AudioBuffer",
  "AudioContext",
  "BiquadFilterNode",
  "IntersectionObserver",
  "OscillatorNode",
  "Blob",
  "Event",
  "File",
  "FormData",
  "AudioBufferSourceNode",
  "GainNode",
  "OffscreenCanvas",
  "ResizeObserver",
  "TextDecoder",
  "TextEncoder",
  "URL",
  "URLSearchParams",
  "Worker",
  "XMLHttpRequest",
  "cancelAnimationFrame",
  "clearTimeout",
  "console",
  "createImageBitmap",
  "document",
  "fetch",
  "getComputedStyle",
  "getSelection",
  "localStorage",
  "location",
  "performance",
  "requestAnimationFrame",
  "sessionStorage",
  "setTimeout",
  "window",
];

export default [
  js.configs.recommended,
  {
    files: ["velvetdrum/studio/static/js/**/*.js"],
    languageOptions: { globals: Object.fromEntries(BROWSER.map((name) => [name, "readonly"])) },
  },
  {
    files: ["tests/js/**/*.js"],
    languageOptions: {
      globals: {
        URL: "readonly",
        Response: "readonly",
        globalThis: "readonly",
        structuredClone: "readonly",
        setTimeout: "readonly",
      },
    },
  },
  {
    rules: {
      "max-len": ["error", { code: 120 }],
      "max-lines": ["error", 300],
      "no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
      eqeqeq: "error",
      "no-var": "error",
      "prefer-const": "error",
    },
  },
];
