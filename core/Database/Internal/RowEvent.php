<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database\Internal;

use Kaiseki\Core\Database\LogEvent;
use UnexpectedValueException;

/** What a row event holds: for each row an image, or two for an update. */
final readonly class RowEvent
{
    /** Flag: it ends its statement (sql/log_event.h, Rows_log_event::enum_flag, like the next). */
    public const ENDS = 1;

    /** Flag: foreign keys are not looked at. */
    public const UNCHECKED = 2;

    private function __construct(
        /** WRITE, UPDATE or DELETE. */
        public int $type,
        public string $width,
        public string $before,
        public string $after,
        public string $rows,
    ) {
    }

    public static function of(LogEvent $event, int $columns): self
    {
        $body = $event->body;
        $type = (int) $event->rowKind();
        $at = 8;
        RowLayout::packed($body, $at);
        $width = substr($body, 8, $at - 8);
        $bytes = ($columns + 7) >> 3;
        $before = substr($body, $at, $bytes);
        $at += $bytes;
        $after = $before;
        if ($type === LogEvent::UPDATE) {
            $after = substr($body, $at, $bytes);
            $at += $bytes;
        }
        $rows = substr($body, $at);

        return new self($type, $width, $before, $after, $event->type === $type ? $rows : self::inflated($rows));
    }

    /** MariaDB source, sql/log_event.cc, binlog_buf_uncompress: one byte of flags, the length most significant byte first, zlib's data. */
    public static function inflated(string $bytes): string
    {
        $head = ord($bytes[0] ?? "\0");
        $length = 0;
        for ($i = 1; $i <= ($head & 7); $i++) {
            $length = ($length << 8) | ord($bytes[$i] ?? "\0");
        }
        if (($head & 0x80) === 0 || $length > 1 << 30) {
            throw new UnexpectedValueException('a compressed event makes no sense');
        }
        $plain = @zlib_decode(substr($bytes, 1 + ($head & 7)), $length);

        return $plain === false || strlen($plain) !== $length
            ? throw new UnexpectedValueException('a compressed event cannot be inflated')
            : $plain;
    }

    /** Rows in it. */
    public function count(RowLayout $layout): int
    {
        return $layout->between($this->rows, 0, strlen($this->rows), $this->before, $this->type === LogEvent::UPDATE ? $this->after : null);
    }

    /** @return iterable<array{string|null, string|null}> image before, image after; null where there is none */
    public function images(RowLayout $layout): iterable
    {
        [$at, $end] = [0, strlen($this->rows)];
        while ($at < $end) {
            $next = $layout->end($this->rows, $at, $this->before);
            $first = substr($this->rows, $at, $next - $at);
            $at = $next;
            if ($this->type !== LogEvent::UPDATE) {
                yield $this->type === LogEvent::WRITE ? [null, $first] : [$first, null];

                continue;
            }
            $next = $layout->end($this->rows, $at, $this->after);
            yield [$first, substr($this->rows, $at, $next - $at)];
            $at = $next;
        }
    }
}
