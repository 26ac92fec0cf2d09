# Installs Debian packages where we may; else says which command to run.
debian_install() {
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        apt-get update -qq
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq "$@" >/dev/null
    else
        echo "Please run: sudo apt-get install $*" >&2
        exit 1
    fi
}
