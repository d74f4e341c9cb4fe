<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/**
 * Takes a message apart (RFC 5322, RFC 2046) by offsets, whatever it is: of headers, parts and depth there is only so much.
 */
final class MessageReader
{
    private const MOST_HEADER_BYTES = 1 << 18;

    private const MOST_PARTS = 1_000;

    private const MOST_DEPTH = 20;

    private int $parts = 0;

    /** @var array<string, true> what is wrong with it, in words */
    private array $wrong = [];

    private function __construct(private readonly string $bytes)
    {
    }

    /** @return array{MessagePart, list<string>} the whole as a part, and what is wrong with it */
    public static function read(string $bytes): array
    {
        $reader = new self($bytes);
        $from = 0;
        if (str_starts_with($bytes, 'From ')) { // the line that parts messages in an mbox
            $from = strpos($bytes, "\n");
            $from = $from === false ? strlen($bytes) : $from + 1;
        }

        return [$reader->part($from, strlen($bytes), 0), array_keys($reader->wrong)];
    }

    private function part(int $from, int $until, int $depth): MessagePart
    {
        $this->parts++;
        [$end, $body] = $this->endOfHeaders($from, $until);
        $headers = substr($this->bytes, $from, min($end - $from, self::MOST_HEADER_BYTES));
        if ($end - $from > self::MOST_HEADER_BYTES) {
            $this->wrong['its headers are longer than 256 KiB; the rest of them is passed over'] = true;
        }
        if ($depth === 0 && $headers !== '' && preg_match('/^>?[\x21-\x39\x3b-\x7e]+[ \t]*:/', $headers) !== 1) {
            $this->wrong['it has no headers'] = true;
            [$headers, $body] = ['', $from];
        }
        $fields = self::fields($headers);
        $type = HeaderParameters::of($fields['content-type'][0] ?? 'text/plain');
        if ($type->value === '') {
            $type = HeaderParameters::of('text/plain');
        }

        return new MessagePart($fields, $type, $body, $until, $this->below($type, $fields, $body, $until, $depth));
    }

    /** @return array{int, int} where the headers end, and where the body begins */
    private function endOfHeaders(int $from, int $until): array
    {
        if ($from < $until && $this->bytes[$from] === "\n") {
            return [$from, $from + 1];
        }
        if ($from < $until && substr_compare($this->bytes, "\r\n", $from, 2) === 0) {
            return [$from, $from + 2];
        }
        $plain = strpos($this->bytes, "\n\n", $from);
        $wide = strpos($this->bytes, "\n\r\n", $from);
        $at = min($plain === false ? $until : $plain, $wide === false ? $until : $wide);

        return $at >= $until ? [$until, $until] : [$at, $at + ($at === $wide ? 3 : 2)];
    }

    /**
     * @param  array<string, list<string>>  $fields
     * @return list<MessagePart>
     */
    private function below(HeaderParameters $type, array $fields, int $body, int $until, int $depth): array
    {
        $encoding = strtolower(trim($fields['content-transfer-encoding'][0] ?? ''));
        $isMessage = $type->value === 'message/rfc822' && $encoding !== 'base64' && $encoding !== 'quoted-printable';
        if (! $isMessage && ! str_starts_with($type->value, 'multipart/')) {
            return [];
        }
        if ($depth >= self::MOST_DEPTH || $this->parts >= self::MOST_PARTS) {
            $this->wrong['it has more parts, or deeper ones, than are looked into'] = true;

            return [];
        }
        if ($isMessage) {
            return [$this->part($body, $until, $depth + 1)];
        }
        $boundary = $type->get('boundary') ?? '';
        if ($boundary === '') {
            $this->wrong['it has several parts, but not what parts them'] = true;

            return [];
        }

        return $this->between("--$boundary", $body, $until, $depth);
    }

    /** @return list<MessagePart> */
    private function between(string $line, int $body, int $until, int $depth): array
    {
        $parts = [];
        $open = null;
        for ($at = $body; ($found = strpos($this->bytes, $line, $at)) !== false && $found < $until;) {
            $at = $found + strlen($line);
            $isEnd = substr($this->bytes, $at, 2) === '--';
            if (! $this->isBoundary($found, $at, $body, $isEnd)) {
                continue;
            }
            if ($open !== null) {
                $end = $found - 1 - ($found > $open + 1 && $this->bytes[$found - 2] === "\r" ? 1 : 0);
                $parts[] = $this->part($open, max($open, $end), $depth + 1);
            }
            if ($isEnd) {
                return $parts;
            }
            if ($this->parts >= self::MOST_PARTS) {
                $this->wrong['it has more parts, or deeper ones, than are looked into'] = true;

                return $parts;
            }
            $next = strpos($this->bytes, "\n", $at);
            $open = $next === false ? $until : min($until, $next + 1);
        }
        $this->wrong['its last part has no end'] = true;

        return $open !== null && $open < $until ? [...$parts, $this->part($open, $until, $depth + 1)] : $parts;
    }

    /** Whether what was found stands alone on its line. */
    private function isBoundary(int $found, int $after, int $body, bool $isEnd): bool
    {
        if ($found !== $body && $this->bytes[$found - 1] !== "\n") {
            return false;
        }
        $next = strspn($this->bytes, " \t", $after, 80);
        $character = $this->bytes[$after + $next] ?? "\n";

        return $isEnd || $character === "\n" || $character === "\r";
    }

    /** @return array<string, list<string>> small letters => values */
    private static function fields(string $headers): array
    {
        $fields = [];
        $unfolded = (string) preg_replace('/\r?\n(?=[ \t])/', '', $headers);
        foreach (explode("\n", $unfolded) as $line) {
            $colon = strpos($line, ':');
            if ($colon !== false && $colon !== 0) {
                $fields[strtolower(rtrim(substr($line, 0, $colon)))][] = trim(substr($line, $colon + 1), " \t\r");
            }
        }

        return $fields;
    }
}
