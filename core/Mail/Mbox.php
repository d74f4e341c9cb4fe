<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** Reads a file of messages one after the other (RFC 4155), in whatever form it is; which one is told from what it holds. */
final class Mbox
{
    private const LINE = 1 << 16;

    /** "From sender Mon Nov  2 10:00:00 2026", with or without a zone. */
    private const SEPARATOR = '/^From \S* *(\w{3} \w{3} [ \d]\d \d\d:\d\d(?::\d\d)?)( [-+]\d{4}| [A-Z]{2,5})? (\d{4})( [-+]\d{4})?/';

    private const MOST_HEADER_LINES = 2_000;

    /** @param  resource  $stream  that can be sought in */
    private function __construct(private $stream, public readonly MboxForm $form)
    {
    }

    /** @param  resource  $stream */
    public static function of($stream): self
    {
        return new self($stream, self::formOf($stream));
    }

    /** Whether the bytes at the beginning of a file are those of an mbox. */
    public static function begins(string $bytes): bool
    {
        return preg_match(self::SEPARATOR, substr($bytes, 0, 500)) === 1;
    }

    /** @return iterable<MboxMessage> */
    public function messages(): iterable
    {
        return $this->form->isCounted() ? $this->counted() : self::parted($this->stream);
    }

    /** The message as it was before it was laid in the file. */
    public function content(MboxMessage $message): string
    {
        return $this->form->unquoted(self::bytes($this->stream, $message->offset, $message->length));
    }

    /** @param  resource  $stream */
    private static function bytes($stream, int $offset, int $length): string
    {
        fseek($stream, $offset);

        return $length === 0 ? '' : (string) stream_get_contents($stream, $length);
    }

    /** @param  resource  $stream */
    private static function formOf($stream): MboxForm
    {
        $counted = self::lengths($stream);
        $quoted = $isDeep = $isBare = false;
        rewind($stream);
        for ($isStart = true; ($line = fgets($stream, self::LINE)) !== false; $isStart = str_ends_with($line, "\n")) {
            if ($isStart && $line[0] === '>' && preg_match('/^(>+)From /', $line, $m) === 1) {
                $quoted = true;
                $isDeep = $isDeep || strlen($m[1]) > 1;
            }
        }
        if ($counted !== null) {
            $isBare = self::holdBareLines($stream, $counted);

            return $isBare || ! $quoted ? MboxForm::OnlyCounted : MboxForm::Counted;
        }

        return $isDeep || ! $quoted ? MboxForm::Each : MboxForm::Once;
    }

    /**
     * The messages by the lengths that they say; null unless each says one, and it ends where the next begins.
     *
     * @param  resource  $stream
     * @return list<MboxMessage>|null
     */
    private static function lengths($stream): ?array
    {
        $messages = [];
        for ($at = 0; ;) {
            fseek($stream, $at);
            $line = fgets($stream, self::LINE);
            if ($line === false) {
                return $messages === [] ? null : $messages;
            }
            if (preg_match(self::SEPARATOR, $line) !== 1) {
                return null;
            }
            $offset = (int) ftell($stream);
            $length = self::lengthInHeaders($stream);
            $end = (int) ftell($stream) + (int) $length;
            if ($length === null || ($at = self::separatorAt($stream, $end)) === null) {
                return null;
            }
            $messages[] = new MboxMessage($offset, $end - $offset, self::moment($line));
        }
    }

    /**
     * Reads headers to their end.
     *
     * @param  resource  $stream
     */
    private static function lengthInHeaders($stream): ?int
    {
        $length = null;
        for ($lines = 0; $lines < self::MOST_HEADER_LINES && ($line = fgets($stream, self::LINE)) !== false; $lines++) {
            if (rtrim($line, "\r\n") === '') {
                return $length;
            }
            if (preg_match('/^Content-Length:\s*(\d{1,12})\s*$/i', $line, $m) === 1) {
                $length = (int) $m[1];
            }
        }

        return null;
    }

    /**
     * Where the next message begins, if one does there, or the file ends.
     *
     * @param  resource  $stream
     */
    private static function separatorAt($stream, int $end): ?int
    {
        if (fseek($stream, 0, SEEK_END) === 0 && $end > (int) ftell($stream)) {
            return null;
        }
        fseek($stream, $end);
        $next = (string) fread($stream, 7);
        $empty = strspn($next, "\r\n", 0, 2);

        return match (true) {
            rtrim($next, "\r\n") === '' => $end + strlen($next),
            str_starts_with(substr($next, $empty), 'From ') => $end + $empty,
            default => null,
        };
    }

    /**
     * Whether a line of a message begins with "From " as a separator does.
     *
     * @param  resource  $stream
     * @param  list<MboxMessage>  $messages
     */
    private static function holdBareLines($stream, array $messages): bool
    {
        foreach ($messages as $message) {
            if (preg_match('/^From /m', self::bytes($stream, $message->offset, $message->length)) === 1) {
                return true;
            }
        }

        return false;
    }

    /** @return iterable<MboxMessage> */
    private function counted(): iterable
    {
        return self::lengths($this->stream) ?? [];
    }

    /**
     * By the lines that part them, each behind an empty one.
     *
     * @param  resource  $stream
     * @return iterable<MboxMessage>
     */
    private static function parted($stream): iterable
    {
        $at = $offset = 0;
        $separator = null;
        $isBehindEmpty = $isStart = true;
        rewind($stream);
        while (true) {
            $line = fgets($stream, self::LINE);
            $isSeparator = $line !== false && $isBehindEmpty && $isStart && str_starts_with($line, 'From ');
            if (($line === false || $isSeparator) && $separator !== null) {
                yield new MboxMessage($offset, self::lengthUntil($stream, $offset, $at), self::moment($separator));
                fseek($stream, $at + strlen((string) $line)); // whoever took it may have looked elsewhere
            }
            if ($line === false) {
                return;
            }
            $at += strlen($line);
            if ($isSeparator) {
                [$separator, $offset] = [$line, $at];
            }
            $isBehindEmpty = $isStart && rtrim($line, "\r\n") === '';
            $isStart = str_ends_with($line, "\n");
        }
    }

    /**
     * Without the empty line that stands before the next separator.
     *
     * @param  resource  $stream
     */
    private static function lengthUntil($stream, int $offset, int $end): int
    {
        $last = self::bytes($stream, max($offset, $end - 4), min(4, $end - $offset));
        $empty = str_ends_with($last, "\n\r\n") ? 2 : (str_ends_with($last, "\n\n") ? 1 : 0);

        return $end - $offset - $empty;
    }

    private static function moment(string $separator): ?int
    {
        if (preg_match(self::SEPARATOR, $separator, $m) !== 1) {
            return null;
        }
        $moment = strtotime("{$m[1]} {$m[3]}".($m[4] ?? ($m[2] === '' ? ' UTC' : $m[2])));

        return $moment === false ? null : $moment;
    }
}
