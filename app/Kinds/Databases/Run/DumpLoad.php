<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Models\BackupSet;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\DumpSection;

/** Gives the parts of a dump that are wanted, without reading what is not where the archive allows that. */
final readonly class DumpLoad
{
    private const PIECE = 1 << 18;

    private const STRUCTURE = [DumpSection::HEADER, DumpSection::SCHEMA, DumpSection::TABLE, DumpSection::SEQUENCE, DumpSection::VIEW_STUB];

    private DumpFacts $facts;

    /**
     * @param  list<string>  $schemas
     * @param  list<string>|null  $tables
     */
    public function __construct(private BackupSet $dump, private ArchiveFile $archive, private array $schemas, private ?array $tables)
    {
        $this->facts = DumpFacts::ofSet($dump);
    }

    /** Whether its tables are told apart in it. */
    public function hasSections(): bool
    {
        return count(DumpFacts::sections($this->dump)) > 1;
    }

    /** @return iterable<string> schemas, tables and sequences, without rows */
    public function structure(): iterable
    {
        return $this->parts(fn (DumpSection $section): bool => in_array($section->kind, self::STRUCTURE, true));
    }

    /** @return iterable<string> what works on rows, and so comes after them: triggers, routines, events, views */
    public function programs(): iterable
    {
        return $this->parts(
            fn (DumpSection $section): bool => $section->kind === DumpSection::HEADER ||
                ($section->kind !== DumpSection::DATA && ! in_array($section->kind, self::STRUCTURE, true)),
        );
    }

    /** @return iterable<string> rows, without definitions */
    public function rows(): iterable
    {
        return $this->parts(
            fn (DumpSection $section): bool => $section->kind === DumpSection::DATA || $section->kind === DumpSection::HEADER,
        );
    }

    /** Whether a part of it can be read without reading what is before it. */
    public function canSkip(): bool
    {
        return ! $this->archive->gzipped || (DumpFacts::sections($this->dump)[1]->member ?? null) !== null;
    }

    /** @return iterable<string> all of it, in its order */
    public function everything(): iterable
    {
        return $this->hasSections() ? $this->parts(fn (): bool => true) : $this->plain();
    }

    /** @return iterable<string> */
    private function plain(): iterable
    {
        $stream = $this->archive->open();
        $held = '';
        while (($bytes = $stream->read(self::PIECE)) !== '') {
            $held .= $bytes;
            $end = strrpos($held, "\n");
            yield self::withoutReplication($end === false ? $held : substr($held, 0, $end + 1));
            $held = $end === false ? '' : substr($held, $end + 1);
        }
        yield self::withoutReplication($held);
    }

    /** What a dump says to a replica to be: it would begin to follow whom the dump names. */
    private static function withoutReplication(string $lines): string
    {
        $words = 'CHANGE MASTER|SET GLOBAL gtid_slave_pos|(?:START|STOP) (?:ALL )?SLAVES?';

        return preg_replace("/^(?:$words)\b[^;\n]*;[ \t]*$/mi", '', $lines) ?? $lines;
    }

    private function isWanted(DumpSection $section): bool
    {
        if ($section->kind === DumpSection::HEADER) {
            return true;
        }
        if ($section->schema !== '' && ! in_array($section->schema, $this->schemas, true)) {
            return false;
        }
        if ($this->tables === null || $section->kind === DumpSection::SCHEMA || $section->kind === DumpSection::SEQUENCE) {
            return true;
        }

        return in_array($section->kind, [DumpSection::TABLE, DumpSection::DATA], true) && in_array($section->name, $this->tables, true);
    }

    /**
     * A table whose default takes a number from a sequence cannot be loaded while only the table is locked (error 1100): nobody else is
     * there, so nothing is.
     */
    private static function unlocked(string $start): string
    {
        return preg_replace('/^LOCK TABLES [^\n]*\n/m', '', substr($start, 0, 4096), 1).substr($start, 4096);
    }

    /**
     * @param  callable(DumpSection): bool  $kind
     * @return iterable<string>
     *
     * @throws UnreadableArchive
     */
    private function parts(callable $kind): iterable
    {
        $stream = null;
        $at = 0;
        $schema = '';
        foreach (DumpFacts::sections($this->dump) as $section) {
            if (! $this->isWanted($section) || ! $kind($section) || $section->bytes === 0) {
                continue;
            }
            if ($section->member !== null) {
                $stream = $this->archive->openAt(new Place($section->member, 0));
                $at = $section->start;
            } elseif ($stream === null) {
                $stream = $this->archive->open();
            }
            if ($stream->skip($section->start - $at) < $section->start - $at) {
                throw UnreadableArchive::endsEarly($section->start);
            }
            $at = $section->start;
            if (
                $this->facts->namesSchema &&
                $section->kind !== DumpSection::SCHEMA &&
                $section->kind !== DumpSection::HEADER &&
                $section->schema !== $schema
            ) {
                yield 'USE '.\Kaiseki\Core\Database\Identifier::quoted($section->schema).";\n";
                $schema = $section->schema;
            } elseif ($section->kind === DumpSection::SCHEMA) {
                $schema = $section->schema;
            }
            for ($left = $section->bytes; $left > 0; $left -= strlen($bytes)) {
                $bytes = $stream->read(min($left, self::PIECE));
                if ($bytes === '') {
                    throw UnreadableArchive::endsEarly($at);
                }
                $at += strlen($bytes);
                yield match (true) {
                    $section->kind !== DumpSection::DATA => self::withoutReplication($bytes),
                    $left === $section->bytes => self::unlocked($bytes),
                    default => $bytes,
                };
            }
        }
    }
}
