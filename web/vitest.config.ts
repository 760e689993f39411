import { defineConfig } from 'vitest/config';

// What is pure is tested here, without a browser; `cargo test` runs it. The page itself is driven in a real one.
export default defineConfig({ test: { include: ['src/**/*.test.ts'], environment: 'node' } });
