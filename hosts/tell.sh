#!/bin/sh
# Tells Restless Rack how this Linux host is: processors, memory, file systems, network, and the health pages of its
# drives. It reads only, and sends one push (OTLP metrics as JSON over HTTP) each time it is run; cron or a timer runs
# it. Needs: sh, awk, base64, df, and curl. For drives, where they are: nvme (NVMe) and sg_raw (ATA), as root or with
# CAP_SYS_RAWIO and CAP_SYS_ADMIN, since reading a log page is a command to the drive.
#
#   RACK_URL    where it is sent, as http://rack.example:8462
#   RACK_TOKEN_FILE  a file that holds the token of this sender (16 characters or more), readable by this user alone
#   RACK_STATE  a file that only this user can write, to say how busy the processors were since the last run
#   RACK_PRINT  not empty: print what would be sent, and send nothing
#
# See docs/hosts.md.

set -u
LC_ALL=C
export LC_ALL

fail() {
  echo "tell.sh: $1" >&2
  exit 1
}
need() {
  command -v "$1" >/dev/null 2>&1 || fail "$1 is not here; install it"
}
need awk
need base64
need df

url=${RACK_URL:-}
tokenFile=${RACK_TOKEN_FILE:-}
print=${RACK_PRINT:-}
if [ -z "$print" ]; then
  need curl
  [ -n "$url" ] || fail 'set RACK_URL to where it is sent, as http://rack.example:8462'
  [ -r "$tokenFile" ] || fail 'set RACK_TOKEN_FILE to a readable file with the token of this sender'
fi

root=${RACK_ROOT:-} # another root than /, for trying it out
folder=$(mktemp -d) || fail 'no temporary folder can be made'
trap 'rm -rf "$folder"' EXIT
points=$folder/points
: >"$points"

now=$(date +%s)000000000
first() { # the first of the files that can be read and says something
  for file in "$@"; do
    [ -r "$file" ] && line=$(head -n 1 "$file" 2>/dev/null | tr -d '\000') && [ -n "$line" ] && {
      printf '%s' "$line"
      return
    }
  done
}
quote() { # as a JSON string, without what JSON does not allow
  [ -n "$1" ] || { printf '""'; return; }
  printf '%s\n' "$1" | tr '\n\t' '  ' | tr -d '\000-\037' | sed 's/\\/\\\\/g; s/"/\\"/g; s/ *$//; s/^/"/; s/$/"/' | tr -d '\n'
}
# point METRIC VALUE [KEY WORD]...: one data point of a gauge.
point() {
  metric=$1
  value=$2
  shift 2
  attributes=
  while [ $# -ge 2 ]; do
    [ -n "$2" ] && attributes="$attributes${attributes:+,}{\"key\":\"$1\",\"value\":{\"stringValue\":$(quote "$2")}}"
    shift 2
  done
  printf '{"name":"%s","gauge":{"dataPoints":[{"timeUnixNano":"%s","asDouble":%s,"attributes":[%s]}]}}\n' \
    "$metric" "$now" "$value" "$attributes" >>"$points"
}
# count METRIC VALUE KEY WORD KEY WORD: one that only grows.
count() {
  printf '{"name":"%s","sum":{"aggregationTemporality":2,"isMonotonic":true,"dataPoints":[{"timeUnixNano":"%s","startTimeUnixNano":"%s","asInt":"%s","attributes":[{"key":"%s","value":{"stringValue":%s}},{"key":"%s","value":{"stringValue":%s}}]}]}}\n' \
    "$1" "$now" "$booted" "$2" "$3" "$(quote "$4")" "$5" "$(quote "$6")" >>"$points"
}

# Who it is. The UUID of the board is that which its controller tells, too; only root may read it.
id=$(first "$root/sys/class/dmi/id/product_uuid" "$root/etc/machine-id" | tr 'A-Z' 'a-z')
name=$(first "$root/proc/sys/kernel/hostname" "$root/etc/hostname")
[ -n "$name" ] || fail 'this host has no name'
system=$(awk -F= '$1 == "PRETTY_NAME" { gsub(/"/, "", $2); print $2 }' "$root/etc/os-release" 2>/dev/null)

# Processors: how busy since the last run where its state is kept, otherwise over one second.
kept=${RACK_STATE:-}
busy() { awk '$1 == "cpu" { idle = $5 + $6; for (i = 2; i <= 9; i += 1) all += $i; print all, idle; exit }' "$root/proc/stat"; }
before=
[ -n "$kept" ] && before=$(awk 'NF == 2 && $1 > 0' "$kept" 2>/dev/null | head -n 1)
after=$(busy)
if [ -z "$before" ] || [ "${before% *}" -ge "${after% *}" ]; then
  before=$after
  sleep 1
  after=$(busy)
fi
[ -n "$kept" ] && (umask 077 && printf '%s\n' "$after" >"$kept") 2>/dev/null
share=$(echo "$before $after" | awk '$3 > $1 { printf "%.4f", 1 - ($4 - $2) / ($3 - $1) }')
[ -n "$share" ] && point system.cpu.utilization "$share"

uptime=$(awk '{ print $1 }' "$root/proc/uptime")
booted=$(awk -v now="${now%000000000}" -v up="$uptime" 'BEGIN { printf "%.0f000000000", now - up }')
point system.uptime "$uptime"

awk '/^MemTotal:/ { all = $2 } /^MemAvailable:/ { free = $2 } /^SwapTotal:/ { swap = $2 } /^SwapFree:/ { left = $2 }
  END {
    if (all > 0) printf "system.memory.limit %.0f\nsystem.memory.usage %.0f\nsystem.memory.utilization %.4f\n", all * 1024, (all - free) * 1024, (all - free) / all
    if (swap > 0) printf "system.paging.usage %.0f\nsystem.paging.utilization %.4f\n", (swap - left) * 1024, (swap - left) / swap
  }' "$root/proc/meminfo" | while read -r metric value; do point "$metric" "$value"; done

# File systems that lie on a device.
df -P -k 2>/dev/null | awk 'NR > 1 && $1 ~ /^\// && $2 > 0 { mount = $6; for (i = 7; i <= NF; i += 1) mount = mount " " $i; print $2, $3, $4, mount }' |
  while read -r size used free mount; do
    point system.filesystem.limit "$(echo "$size" | awk '{ printf "%.0f", $1 * 1024 }')" system.filesystem.mountpoint "$mount"
    point system.filesystem.usage "$(echo "$used" | awk '{ printf "%.0f", $1 * 1024 }')" system.filesystem.mountpoint "$mount"
    # Full is what nobody can write to any more: space that is reserved for root counts neither as used nor as free, as in df.
    point system.filesystem.utilization "$(echo "$used $free" | awk '{ printf "%.4f", ($1 + $2 > 0 ? $1 / ($1 + $2) : 1) }')" system.filesystem.mountpoint "$mount"
  done

sed 's/:/ /' "$root/proc/net/dev" | awk 'NR > 2 && $1 != "lo" { print $1, $2, $10 }' | while read -r device received sent; do
  count system.network.io "$received" network.interface.name "$device" network.io.direction receive
  count system.network.io "$sent" network.interface.name "$device" network.io.direction transmit
done

# page KIND DEVICE MODEL SERIAL FIRMWARE DATA [THRESHOLDS]: files with raw pages.
page() {
  [ "$(wc -c <"$6")" -eq 512 ] || return 0
  limits=
  [ -n "${7:-}" ] && [ "$(wc -c <"$7")" -eq 512 ] && limits=$(base64 <"$7" | tr -d '\n')
  point rack.drive.page 1 hw.id "$2" hw.name "$2" hw.model "$3" hw.serial_number "$4" hw.firmware_version "$5" \
    rack.page.kind "$1" rack.page.data "$(base64 <"$6" | tr -d '\n')" rack.page.thresholds "$limits"
}
# Which drives there are, and that nothing is told of them without a tool.
lacking() { # TOOL PACKAGE DRIVE...
  tool=$1
  package=$2
  shift 2
  [ -e "$1" ] || return 0
  command -v "$tool" >/dev/null 2>&1 && return 0
  echo "tell.sh: $tool is not here, so the health of ${1##*/}$([ $# -gt 1 ] && echo " and $(($# - 1)) more") is not told; install $package" >&2
}
lacking nvme nvme-cli "$root"/sys/class/nvme/nvme*
lacking sg_raw sg3-utils "$root"/sys/block/sd*
if command -v nvme >/dev/null 2>&1; then
  for path in "$root"/sys/class/nvme/nvme*; do
    [ -d "$path" ] || continue
    device=${path##*/}
    nvme get-log "/dev/$device" --log-id=2 --log-len=512 --raw-binary >"$folder/page" 2>/dev/null || continue
    page nvme-health "$device" "$(first "$path/model" | sed 's/ *$//')" "$(first "$path/serial" | sed 's/ *$//')" \
      "$(first "$path/firmware_rev" | sed 's/ *$//')" "$folder/page"
  done
fi
if command -v sg_raw >/dev/null 2>&1; then
  for path in "$root"/sys/block/sd*; do
    [ -d "$path" ] || continue
    device=${path##*/}
    # ATA PASS-THROUGH (16) of SMART READ DATA and SMART READ THRESHOLDS (SAT-4 §12.2.3).
    sg_raw -o "$folder/page" -r 512 "/dev/$device" 85 08 0e 00 d0 00 01 00 00 00 4f 00 c2 00 b0 00 >/dev/null 2>&1 || continue
    sg_raw -o "$folder/limits" -r 512 "/dev/$device" 85 08 0e 00 d1 00 01 00 01 00 4f 00 c2 00 b0 00 >/dev/null 2>&1 || : >"$folder/limits"
    # The unit's serial number page (SPC-4 §7.8.14) has four octets in front.
    serial=$(tail -c +5 "$path/device/vpd_pg80" 2>/dev/null | tr -d '\000 ')
    page ata-smart "$device" "$(first "$path/device/model" | sed 's/ *$//')" "$serial" \
      "$(first "$path/device/rev" | sed 's/ *$//')" "$folder/page" "$folder/limits"
  done
fi

attribute() { [ -z "$2" ] || printf ',{"key":"%s","value":{"stringValue":%s}}' "$1" "$(quote "$2")"; }
{
  printf '{"resourceMetrics":[{"resource":{"attributes":[{"key":"host.name","value":{"stringValue":%s}}' "$(quote "$name")"
  attribute host.id "$id"
  attribute os.description "$system"
  attribute hw.vendor "$(first "$root/sys/class/dmi/id/sys_vendor")"
  attribute hw.model "$(first "$root/sys/class/dmi/id/product_name")"
  attribute hw.serial_number "$(first "$root/sys/class/dmi/id/product_serial")"
  printf ']},"scopeMetrics":[{"scope":{"name":"tell.sh"},"metrics":['
  awk 'NR > 1 { printf "," } { printf "%s", $0 }' "$points"
  printf ']}]}]}'
} >"$folder/push"

if [ -n "$print" ]; then
  cat "$folder/push"
  exit 0
fi
# The token goes in by a file, so that it stands in no list of processes.
(umask 077 && printf 'header = "Authorization: Bearer %s"\n' "$(head -n 1 "$tokenFile" | tr -d '\r\n"\\')" >"$folder/curl")
said=$(curl --silent --show-error --max-time 20 --config "$folder/curl" --header 'Content-Type: application/json' \
  --data-binary "@$folder/push" --write-out '\n%{http_code}' "$url/v1/metrics" 2>&1)
case ${said##*
} in
200) ;;
*) fail "$url/v1/metrics did not take it: $(printf '%s' "$said" | tr '\n' ' ')" ;;
esac
