<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** Writes a binary log of events that come from others, each with a checksum of its own. */
final class LogWriter
{
    public int $bytes = 0;

    /** @param  resource  $out */
    public function __construct(private $out)
    {
        $this->write(LogReader::MAGIC);
    }

    /** @throws UnreadableLog if not all of it can be written: a log that is cut between two events looks whole */
    public function write(string $events): void
    {
        if ($events !== '' && @fwrite($this->out, $events) !== strlen($events)) {
            throw UnreadableLog::because('could not be copied: is the disk full?');
        }
        $this->bytes += strlen($events);
    }

    /** The bytes of an event as it was. */
    public static function same(LogEvent $event): string
    {
        return self::like($event, $event->type, $event->flags, $event->body);
    }

    /** The bytes of another event of the same moment and server. */
    public static function like(LogEvent $event, int $type, int $flags, string $body): string
    {
        if ($type === LogEvent::FORMAT) {
            $flags &= ~1; // it is not in use
            $body = substr($body, 0, -1)."\x01"; // and its events have checksums
        }

        return self::closed(pack('VCVVVv', $event->at, $type, $event->server, strlen($body) + 23, 0, $flags).$body);
    }

    /** With the checksum behind it. */
    public static function closed(string $bytes): string
    {
        return $bytes.strrev(hash('crc32b', $bytes, true));
    }
}
