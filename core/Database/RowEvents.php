<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Database\Internal\RowEvent;
use Kaiseki\Core\Database\Internal\RowLayout;
use Kaiseki\Core\Database\Internal\TableMap;

/**
 * Row events of one server's tables as events of tables of other names: what was changed here is changed there as a replica
 * would change it, so that no trigger runs again, no default and no ON UPDATE sets a column, and no key cascades.
 */
final class RowEvents
{
    /** Bytes of events in one statement. */
    private const STATEMENT = 1 << 20;

    private int $number = 1;

    private readonly LogWriter $log;

    private bool $hasFormat = false;

    /** @param  resource  $out  a binary log is written to it */
    public function __construct($out)
    {
        $this->log = new LogWriter($out);
    }

    /**
     * @param  array<string, array{string, string}>  $names  "schema\0table" as it is in the log => schema and table as they are to be
     *
     * @throws UnreadableLog
     */
    public function take(LogReader $log, int $from, int $until, array $names): void
    {
        $maps = [];
        foreach ($log->events() as $event) {
            if ($event->type === LogEvent::FORMAT && ! $this->hasFormat) {
                $this->log->write(LogWriter::same($event));
                $this->hasFormat = true;
            }
            if ($event->position < $from) {
                continue;
            }
            if ($event->position >= $until) {
                return;
            }
            if ($event->type === LogEvent::TABLE_MAP) {
                $layout = new RowLayout($event->body);
                $maps[$event->tableId()] = [$event->body, $names[$layout->name] ?? null];
            } elseif ($event->rowKind() !== null) {
                [$map, $name] =
                    $maps[$event->tableId()] ?? throw UnreadableLog::because("has rows without a table map at {$event->position}");
                if ($name !== null) {
                    $this->log->write(
                        LogWriter::like($event, LogEvent::TABLE_MAP, 0, TableMap::of($map, ++$this->number, $name[0], $name[1])),
                    );
                    $this->log->write(
                        LogWriter::like(
                            $event,
                            $event->type,
                            0,
                            TableMap::number($this->number).pack('v', RowEvent::ENDS | RowEvent::UNCHECKED).substr($event->body, 8),
                        ),
                    );
                }
            }
        }
        if ($log->problem !== null) {
            throw UnreadableLog::because($log->problem);
        }
    }

    /**
     * Such a log as BINLOG statements, each of which can be run for itself.
     *
     * @param  int  $largest  bytes of the largest statement that the server takes
     * @return iterable<string>
     *
     * @throws UnreadableLog if a row is too large for it
     */
    public static function statements(LogReader $log, int $largest): iterable
    {
        $held = '';
        $map = '';
        foreach ($log->events() as $event) {
            if ($event->type === LogEvent::FORMAT) {
                $held = LogWriter::same($event);
            } elseif ($event->type === LogEvent::TABLE_MAP) {
                $map = LogWriter::same($event);
            } else {
                $rows = LogWriter::same($event);
                if (strlen($held) + strlen($map) + strlen($rows) > min(self::STATEMENT, $largest >> 1)) {
                    yield from self::statement($held, $largest);
                    $held = '';
                }
                $held .= $map.$rows;
            }
        }
        if ($log->problem !== null) {
            throw UnreadableLog::because($log->problem);
        }
        yield from self::statement($held, $largest);
    }

    /**
     * In two variables where it is too long for one statement (MariaDB knowledge base, "BINLOG").
     *
     * @return iterable<string>
     */
    private static function statement(string $events, int $largest): iterable
    {
        if ($events === '') {
            return;
        }
        $text = base64_encode($events);
        $room = $largest - 100;
        if (strlen($text) <= $room) {
            yield "BINLOG '$text'";

            return;
        }
        if (strlen($text) > 2 * $room) {
            throw UnreadableLog::because("hold a row that is too large for the server, whose max_allowed_packet is $largest bytes");
        }
        $half = intdiv(strlen($text) + 1, 2);
        yield "SET @kaiseki_0 = '".substr($text, 0, $half)."'";
        yield "SET @kaiseki_1 = '".substr($text, $half)."'";
        yield 'BINLOG @kaiseki_0, @kaiseki_1';
        yield 'SET @kaiseki_0 = NULL, @kaiseki_1 = NULL';
    }
}
