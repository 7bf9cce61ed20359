#!/bin/sh
# After installing: a user of its own, and settings that only it may read.
set -e
if [ "$1" = configure ]; then
  if ! getent passwd notchback >/dev/null; then
    adduser --system --group --home /var/lib/notchback --no-create-home notchback >/dev/null
  fi
  chgrp notchback /etc/notchback/notchback.conf
  if [ -d /run/systemd/system ]; then
    systemctl daemon-reload
  fi
fi
