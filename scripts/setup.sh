# Sourced by ./demo and ./check: Python environment, packages and the system libraries that Qt needs.
# A second run finds its marks and goes straight on.

libraries="libegl1 libgl1 libfontconfig1 libdbus-1-3 libxkbcommon0 libxcb-icccm4 libxcb-keysyms1
libxcb-image0 libxcb-render-util0 libxcb-cursor0 libxcb-shape0 libxcb-xinerama0 libxkbcommon-x11-0"

find_python() {
    local name
    for name in python3 python3.14 python3.13 python3.12 python3.11; do
        if command -v "$name" >/dev/null && "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
            echo "$name"
            return
        fi
    done
    echo "Grey Current needs Python 3.11 or newer; install it (for example: apt-get install python3 python3-venv)." >&2
    return 1
}

install_libraries() { # names...
    local missing=()
    for name in "$@"; do
        dpkg-query -W -f '${Status}' "$name" 2>/dev/null | grep -q 'ok installed' || missing+=("$name")
    done
    [ ${#missing[@]} -eq 0 ] && return
    local get="apt-get install -y --no-install-recommends ${missing[*]}"
    local as=()
    if [ "$(id -u)" -ne 0 ]; then
        if ! command -v sudo >/dev/null || { [ ! -t 0 ] && ! sudo -n true 2>/dev/null; }; then
            printf 'The window needs these system libraries; install them with:\n  sudo %s\nand start again.\n' "$get" >&2
            return 1
        fi
        as=(sudo)
    fi
    echo "Installing system libraries: ${missing[*]}"
    "${as[@]}" apt-get update -qq
    "${as[@]}" env DEBIAN_FRONTEND=noninteractive $get >/dev/null
}

# Shows how far pip has come, by the packages that its list names.
progress() { # how many packages
    local total=$1 seen=0 start=$SECONDS line name
    while IFS= read -r line; do
        case $line in
        Collecting* | Processing*)
            seen=$((seen + 1)) name=${line#* } name=${name##*/} name=${name%%[=< -]*}
            [ -t 1 ] && printf '\r  %2d of %d: %-30s %d s' "$seen" "$total" "$name" $((SECONDS - start))
            ;;
        "Installing collected packages"*)
            [ -t 1 ] && printf '\r'
            printf '  %d packages fetched in %d s; putting them in place (half a minute)\n' "$seen" $((SECONDS - start))
            ;;
        esac
    done
}

setup() { # runtime | dev
    local wanted=$1 mark sum python
    local packages=($libraries)
    [ "$wanted" = dev ] && packages+=(xvfb dbus at-spi2-core)
    if command -v dpkg-query >/dev/null && command -v apt-get >/dev/null; then
        install_libraries "${packages[@]}"
    elif [ ! -e .venv/.ready-runtime ] && [ ! -e .venv/.ready-dev ]; then
        echo "This is no Debian-like system: if the window does not open, install Qt 6's xcb libraries by hand."
    fi
    sum=$(cat pyproject.toml requirements/*.txt | cksum)
    for mark in .venv/.ready-dev ".venv/.ready-$wanted"; do
        [ -e "$mark" ] && [ "$(cat "$mark")" = "$sum" ] && return
    done
    python=$(find_python)
    if [ ! -x .venv/bin/python ]; then
        echo "Making a Python environment in .venv"
        "$python" -m venv .venv || {
            echo "Python could not make an environment; install its venv module (for example: apt-get install python3-venv)." >&2
            return 1
        }
    fi
    echo "Installing Python packages (some 200 MB; one to five minutes, once)"
    .venv/bin/python -m pip install --progress-bar off --disable-pip-version-check -r "requirements/$wanted.txt" |
        progress "$(grep '==' "requirements/$wanted.txt" | cut -d= -f1 | sort -u | wc -l)"
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-build-isolation --no-deps -e . 2>.venv/install.log ||
        { cat .venv/install.log >&2; return 1; }
    .venv/bin/python -m compileall -q grey_current # so that the first start is as quick as the next
    echo "Compiling the solver and the view in space (half a minute, once)"
    .venv/bin/python -m grey_current.air.compiled
    .venv/bin/python -m grey_current.build.solid.view
    echo "$sum" >".venv/.ready-$wanted"
}
