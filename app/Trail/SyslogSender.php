<?php

declare(strict_types=1);

namespace App\Trail;

use App\NamedLock;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Sends sealed entries of the trail to a syslog server (RFC 5424), each once, in the order of their seals: over UDP (RFC 5426), TCP with
 * the octets counted (RFC 6587, 3.4.1), or TLS (RFC 5425). What cannot be sent waits, and holds nothing else up.
 */
final class SyslogSender
{
    /** Facility 13 (log audit); severity 6 (informational), and 4 (warning) for what was refused. */
    private const INFORMATIONAL = 13 * 8 + 6;

    private const WARNING = 13 * 8 + 4;

    private const PORTS = ['udp' => 514, 'tcp' => 601, 'tls' => 6514];

    private const WAIT_S = 5;

    private const AT_ONCE = 500;

    /**
     * Where to, from an address such as udp://log.example:514; null if it is none.
     *
     * @return array{string, string}|null the transport, and the address for PHP's streams
     */
    public static function address(string $url): ?array
    {
        $parts = parse_url($url);
        [$scheme, $host] = [$parts['scheme'] ?? '', $parts['host'] ?? ''];
        if (! isset(self::PORTS[$scheme]) || $host === '') {
            return null;
        }

        return [$scheme, "$scheme://$host:".($parts['port'] ?? self::PORTS[$scheme])];
    }

    /** @return int how many were sent */
    public static function sendNew(string $url): int
    {
        $sent = 0;
        NamedLock::unlessHeld('trail-syslog', function () use ($url, &$sent): void {
            [$transport, $address] = self::address($url) ?? throw CannotSend::noAddress($url);
            $stream = @stream_socket_client($address, $error, $why, self::WAIT_S);
            if ($stream === false) {
                throw CannotSend::silent($address, $why);
            }
            stream_set_timeout($stream, self::WAIT_S);
            do {
                $rows = self::next();
                foreach ($rows as $row) {
                    $message = self::message($row);
                    $message = $transport === 'udp' ? $message : strlen($message).' '.$message;
                    if (@fwrite($stream, $message) !== strlen($message)) {
                        throw CannotSend::silent($address, 'it takes no more');
                    }
                }
                if ($rows !== []) {
                    DB::table('trail_sent')->insert(['number' => end($rows)->number, 'sent_at' => now()]);
                }
                $sent += count($rows);
            } while (count($rows) === self::AT_ONCE);
            fclose($stream);
        });

        return $sent;
    }

    /** @return list<stdClass> entries with number and seal, the first that were not sent */
    private static function next(): array
    {
        return DB::table('trail_seals')
            ->join('trail', 'trail.id', '=', 'trail_seals.entry_id')
            ->where('number', '>', (int) DB::table('trail_sent')->max('number'))
            ->orderBy('number')
            ->limit(self::AT_ONCE)
            ->get([...TrailRows::columns(), 'trail_seals.number', 'trail_seals.seal'])
            ->all();
    }

    /** One entry: the line that was sealed, with the number and seal before it. */
    private static function message(stdClass $row): string
    {
        $priority = $row->result === 'refused' ? self::WARNING : self::INFORMATIONAL;
        $at = now()->parse((string) $row->at)->utc()->format('Y-m-d\TH:i:s.u\Z');
        $host = substr((string) preg_replace('/[^!-~]/', '-', (string) gethostname()), 0, 255) ?: '-';
        $line = rtrim(TrailRows::line($row), "\n");

        return "<$priority>1 $at $host kaiseki ".
            getmypid().
            " trail - \xEF\xBB\xBF{\"number\":{$row->number},\"seal\":\"{$row->seal}\",\"entry\":$line}";
    }
}
