// `npm run demo`: installs what is missing, builds, and serves the application with the demo world.
import { spawn } from 'node:child_process';
import { ensureBuild, ensureModules, root } from './setup.mjs';

ensureModules();
ensureBuild();
const server = spawn(process.execPath, ['--import', 'tsx', 'src/server/main.ts'], { cwd: root, stdio: 'inherit' });
// Ctrl-C reaches the server too, which closes its database; this process only waits for it.
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => signal === 'SIGTERM' && server.kill('SIGTERM'));
server.on('exit', (code) => process.exit(code ?? 0));
