# --- The desk: one line for each question, to whoever has the certificate that is known here -----------------------------------------
# What the clock says does not matter: the certificate is known by itself, not by whom it was signed or until when.
# Set before: desk (HOST:PORT), certificate and key (files), under (metal or agent), lines (a folder).

status=
as=work # whose files it uses: two ask at the same time
ask() { # PATH [FILE-TO-SEND]: into $lines/$as.body; ends with 0 only if the desk says 200, and leaves what it said in $status
  local head method=GET length=
  [ -z "${2:-}" ] || { method=POST; length="Content-Length: $(stat -c %s "$2")\r\n"; }
  head="$method /$under/$1 HTTP/1.0\r\nHost: kaiseki-desk\r\nX-Kaiseki-Token: $token\r\n$length\r\n"
  { printf "$head"; [ -z "${2:-}" ] || cat "$2"; } |
    timeout "${limit:-60}" openssl s_client -quiet -connect "$desk" -CAfile "$certificate" -verify_return_error -no_check_time \
      -verify_hostname kaiseki-desk -partial_chain >"$lines/$as.response" 2>"$lines/$as.line"
  status=$(head -n 1 "$lines/$as.response" | cut -d' ' -f2 | tr -cd '0-9')
  tail -c +$(($(sed '/^\r*$/q' "$lines/$as.response" | wc -c) + 1)) "$lines/$as.response" >"$lines/$as.body"
  rm -f "$lines/$as.response"
  [ "$status" = 200 ]
}
refused() { case $status in 4??) return 0 ;; *) return 1 ;; esac }
digest() { # of what it is given: openssl's is several times faster than busybox's, which the shell would take
  openssl dgst -sha256 -r | cut -c 1-64
}
signed() { # FILE SIGNATURE: whether the desk whose key is known here signed it
  openssl pkeyutl -verify -pubin -inkey "$key" -rawin -in "$1" -sigfile "$2" >/dev/null 2>&1
}
