#!/usr/bin/env node
import '../dist/node/cli/main.js';
