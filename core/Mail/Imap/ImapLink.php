<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Imap;

use Closure;

/** A line to a mail server, that speaks IMAP (RFC 3501; literals that need no answer by RFC 7888). */
final class ImapLink
{
    /** Seconds that it may be silent. */
    private const PATIENCE = 60;

    private const LINE = 1 << 20;

    /** A message of more bytes is refused: it is not held in memory. */
    public const LARGEST = 256 << 20;

    private int $orders = 0;

    /** Begins the names of orders: what a server repeats of what it was given is never taken for its answer. */
    private readonly string $mark;

    /** @var resource */
    private $socket;

    public function __construct(ImapAddress $at)
    {
        $this->mark = 'k'.bin2hex(random_bytes(6)).'x';
        $tls = $at->fingerprint === ''
            ? ['verify_peer' => true, 'verify_peer_name' => true]
            : ['verify_peer' => false, 'verify_peer_name' => false, 'peer_fingerprint' => ['sha256' => $at->fingerprint]];
        $context = stream_context_create(['ssl' => $tls]);
        $to = ($at->isEncrypted ? 'tls' : 'tcp')."://{$at->host}:{$at->port}";
        $socket = @stream_socket_client($to, $number, $because, 10, STREAM_CLIENT_CONNECT, $context);
        if ($socket === false) {
            throw ImapFailure::unreachable($at->words(), $because === '' ? 'its certificate is not the one that is known' : $because);
        }
        stream_set_timeout($socket, self::PATIENCE);
        $this->socket = $socket;
        if (! str_starts_with($this->line(), '* OK')) {
            throw ImapFailure::unreachable($at->words(), 'it does not greet as one');
        }
    }

    /**
     * @param  (Closure(string, list<string>): void)|null  $each  told each line that is not the answer, with its literals cut out of it:
     *                                                           each stands there as its number between two NULs
     * @return string what follows "OK " in the answer
     *
     * @throws ImapFailure
     */
    public function order(string $what, string $words, ?Closure $each = null): string
    {
        $tag = $this->mark.++$this->orders;
        $this->write("$tag $what\r\n");

        return $this->answer($tag, $words, $each);
    }

    /**
     * An order that ends with bytes of any kind.
     *
     * @param  bool  $isTakenAtOnce  whether they are sent without being asked for
     */
    public function orderWith(string $what, string $bytes, bool $isTakenAtOnce, string $words): string
    {
        $tag = $this->mark.++$this->orders;
        $this->write("$tag $what {".strlen($bytes).($isTakenAtOnce ? "+}\r\n" : "}\r\n"));
        while (! $isTakenAtOnce && ! str_starts_with($line = $this->line(), '+')) {
            if (str_starts_with($line, "$tag ")) {
                throw ImapFailure::refused($words, rtrim(substr($line, strlen($tag) + 1)));
            }
        }
        $this->write($bytes);
        $this->write("\r\n");

        return $this->answer($tag, $words, null);
    }

    /** @param  (Closure(string, list<string>): void)|null  $each */
    private function answer(string $tag, string $words, ?Closure $each): string
    {
        while (true) {
            [$line, $literals] = $this->response();
            if (str_starts_with($line, "$tag ")) {
                $answer = substr($line, strlen($tag) + 1);

                return str_starts_with($answer, 'OK ') ? substr($answer, 3) : throw ImapFailure::refused($words, $answer);
            }
            if (str_starts_with($line, '* BYE')) {
                throw ImapFailure::lost(trim(substr($line, 5)));
            }
            if ($each !== null) {
                $each($line, $literals);
            }
        }
    }

    public function close(): void
    {
        @fwrite($this->socket, "{$this->mark}0 LOGOUT\r\n");
        fclose($this->socket);
    }

    /** A word of ASCII without control characters, as the protocol has it. */
    public static function quoted(string $text): string
    {
        return '"'.addcslashes($text, '\\"').'"';
    }

    private function write(string $bytes): void
    {
        for ($at = 0, $length = strlen($bytes); $at < $length; $at += $written) {
            $written = @fwrite($this->socket, substr($bytes, $at, 1 << 18));
            if ($written === false || $written === 0) {
                throw ImapFailure::lost('it takes nothing any more');
            }
        }
    }

    /** @return array{string, list<string>} */
    private function response(): array
    {
        $literals = [];
        for ($text = ''; ;) {
            $line = rtrim($this->line(), "\r\n");
            if (preg_match('/\{(\d{1,10})\}$/', $line, $m) !== 1) {
                return [$text.$line, $literals];
            }
            $text .= substr($line, 0, -strlen($m[0]))."\0".count($literals)."\0";
            $literals[] = $this->bytes((int) $m[1]);
        }
    }

    private function line(): string
    {
        $line = fgets($this->socket, self::LINE);
        if ($line === false) {
            throw ImapFailure::lost(stream_get_meta_data($this->socket)['timed_out'] ? 'it says nothing' : 'the line is closed');
        }
        if (! str_ends_with($line, "\n")) {
            throw ImapFailure::unclear('a line of it has no end');
        }

        return $line;
    }

    private function bytes(int $count): string
    {
        if ($count > self::LARGEST) {
            throw ImapFailure::unclear('it sends '.$count.' bytes at once');
        }
        $bytes = $count === 0 ? '' : (string) stream_get_contents($this->socket, $count);

        return strlen($bytes) === $count ? $bytes : throw ImapFailure::lost('the line was closed in the middle of a message');
    }
}
