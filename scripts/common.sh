# Shared by start.sh, test.sh and .ci/run. Meant to be sourced, with `root` set to the repository's folder.
export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1
stamps="$root/.work"
mkdir -p "$stamps"

say() { printf '%s\n' "$*" >&2; }
fail() { say "$*"; exit 1; }

# Installs Debian packages of which the given commands or files are missing. Arguments: package=command-or-file ...
need_debian() {
  local missing=() pair name probe
  for pair in "$@"; do
    name=${pair%%=*} probe=${pair#*=}
    if [[ $probe == /* ]]; then
      compgen -G "$probe" >/dev/null || missing+=("$name")
    else
      command -v "$probe" >/dev/null || missing+=("$name")
    fi
  done
  [[ ${#missing[@]} -eq 0 ]] && return
  [[ $(id -u) -eq 0 ]] || fail "These Debian packages are missing: ${missing[*]}. Install them with: sudo apt-get install ${missing[*]}"
  say "Installing from Debian: ${missing[*]}"
  apt-get -qq -o DPkg::Lock::Timeout=400 update >&2
  DEBIAN_FRONTEND=noninteractive apt-get -qq -o DPkg::Lock::Timeout=400 install -y --no-install-recommends "${missing[@]}" >&2
}

need_toolchains() {
  command -v dotnet >/dev/null || fail "The .NET 10 SDK is missing: 'dotnet' was not found."
  command -v node >/dev/null || fail "Node 20 is missing: 'node' was not found."
  [[ $(node -p 'process.versions.node.split(".")[0]') -ge 20 ]] || fail "Node 20 or newer is needed; this is $(node --version)."
}

# True when a step has to be done (again): its stamp is missing, or something it depends on is newer.
stale() {
  local stamp="$stamps/$1"
  shift
  [[ ! -f $stamp ]] || [[ -n $(find "$@" \( -name node_modules -o -name dist -o -name bin -o -name obj \) -prune -o -newer "$stamp" -type f -print -quit) ]]
}

web_packages() {
  if stale npm "$root/src/web/package-lock.json" "$root/src/web/.npmrc" || [[ ! -d $root/src/web/node_modules ]]; then
    say "Installing the web packages."
    (cd "$root/src/web" && npm ci --loglevel=error >&2)
    touch "$stamps/npm"
  fi
}

web_pages() {
  if stale pages "$root/src/web" || [[ ! -f $root/src/web/dist/index.html ]]; then
    web_packages
    say "Building the pages."
    (cd "$root/src/web" && node node_modules/vite/bin/vite.js build --logLevel error >&2)
    touch "$stamps/pages"
  fi
}

restore() {
  if stale restore "$root"/*.props "$root/global.json" "$root"/src/*/*.csproj "$root"/tests/*/*.csproj "$root"/bench/*/*.csproj; then
    say "Restoring the .NET packages."
    dotnet restore "$root/NeatCrate.slnx" --locked-mode -v quiet >&2
    touch "$stamps/restore"
  fi
}
