#!/bin/sh
# The tests on the real screen need Chromium and its driver, from Debian's packages.
set -eu
. tools/debian.sh
[ -x /usr/bin/chromium ] && [ -x /usr/bin/chromedriver ] || debian_install chromium chromium-driver
