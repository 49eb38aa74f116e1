#!/bin/sh
# A browser for the tests of the review page. Where it cannot be installed they are left out, which is said.
set -eu

if command -v chromedriver >/dev/null 2>&1; then
    exit 0
fi
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
    echo "Installing a browser for the tests of the review page."
    if apt-get update -qq && DEBIAN_FRONTEND=noninteractive \
        apt-get install -y -qq --no-install-recommends chromium chromium-driver >/dev/null; then
        exit 0
    fi
fi
echo "The review page is not tested in a browser: there is none here that can be driven. Install one with:" >&2
echo "    sudo apt-get update && sudo apt-get install -y chromium chromium-driver" >&2
