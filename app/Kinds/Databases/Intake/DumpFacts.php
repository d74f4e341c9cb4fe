<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Instance;
use App\Kinds\Databases\Run\TableContents;
use App\Models\BackupSet;
use DateTimeImmutable;
use DateTimeZone;
use Exception;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\DumpScan;
use Kaiseki\Core\Database\DumpSection;
use Kaiseki\Core\Database\LogPosition;

/** What is known of a dump. */
final readonly class DumpFacts
{
    /**
     * @param  array<string, list<string>>  $schemas  schema => tables
     * @param  list<string>  $remarks
     * @param  array<string, array<string, TableContents>>  $counted  schema => table => what was counted in the snapshot of the dump
     */
    private function __construct(
        public string $logFile,
        public int $logPosition,
        public string $gtid,
        public string $version,
        public array $schemas,
        /** Seconds since 1970. */
        public int $at,
        public array $remarks,
        public array $counted = [],
        public bool $hasComments = true,
        public bool $namesSchema = false,
    ) {
    }

    /**
     * @param  int  $fallback  seconds since 1970: when the file was written
     * @param  array<string, array<string, TableContents>>  $counted
     *
     * @throws UnreadableArchive if it is no dump, or cut short
     */
    public static function of(DumpScan $scan, int $fallback, array $counted = [], ?int $at = null): self
    {
        $hasComments = $scan->host !== '' || $scan->serverVersion !== '' || count($scan->sections) > 1;
        if (! $scan->isWhole && $hasComments) {
            throw UnreadableArchive::refused('it is cut short: its last line ("-- Dump completed") is not there', $scan->bytes);
        }
        if (! $hasComments && $scan->bytes === 0) {
            throw UnreadableArchive::cannotOpen('it is empty');
        }
        if (! $hasComments && ! $scan->beginsAsSql) {
            throw UnreadableArchive::cannotOpen('it is no dump: it does not begin with statements');
        }
        $remarks = [];
        $moment = $at ?? self::moment($scan->completedAt);
        if ($at === null && $moment !== null) {
            $remarks[] = 'When it was made is taken from its last line as UTC; what zone that was in it does not say.';
        }
        if ($scan->logFile === '') {
            $remarks[] = 'It has no position in the binary logs: nothing can be rolled forward from it.';
        }
        $schemas = $scan->tables();
        foreach ([...$scan->schemas(), ...array_map(strval(...), array_keys($scan->used))] as $schema) {
            $schemas[$schema] ??= [];
        }
        if (! $hasComments) {
            $schemas = $schemas === [] ? ['' => []] : $schemas;
            $remarks[] =
                'It was made without comments: whether it is whole it does not say'.
                (isset($schemas['']) ? ', nor of which schema it is: name that when restoring' : '').
                '.';
        }
        if ($scan->schema !== '' && count($schemas) > 1 && isset($schemas[''])) {
            unset($schemas['']);
        }

        return new self(
            $scan->logFile,
            $scan->logPosition,
            $scan->gtid,
            $scan->serverVersion,
            $schemas,
            $moment ?? $fallback,
            $remarks,
            $counted,
            $hasComments,
            $scan->used !== [] ||
                array_filter($scan->sections, fn (DumpSection $section): bool => $section->kind === DumpSection::SCHEMA) !== [],
        );
    }

    private static function moment(string $completed): ?int
    {
        try {
            return $completed === ''
                ? null
                : (new DateTimeImmutable(preg_replace('/\s+/', ' ', $completed) ?? '', new DateTimeZone('UTC')))->getTimestamp();
        } catch (Exception) {
            return null;
        }
    }

    /** @return list<string> SCHEMA.TABLE */
    public function tables(): array
    {
        $tables = [];
        foreach ($this->schemas as $schema => $names) {
            foreach ($names as $name) {
                $tables[] = "$schema.$name";
            }
        }

        return $tables;
    }

    public function isOneMoment(): bool
    {
        return $this->logFile !== '';
    }

    public function position(): ?LogPosition
    {
        return $this->logFile === '' ? null : new LogPosition($this->logFile, $this->logPosition);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['type' => 'dump', 'counted' => array_map(TableContents::kept(...), $this->counted)] +
            array_diff_key(get_object_vars($this), ['remarks' => true]);
    }

    public static function ofSet(BackupSet $set): self
    {
        $facts = $set->facts ?? [];

        return new self(
            (string) ($facts['logFile'] ?? ''),
            (int) ($facts['logPosition'] ?? 0),
            (string) ($facts['gtid'] ?? ''),
            (string) ($facts['version'] ?? ''),
            (array) ($facts['schemas'] ?? []),
            (int) ($facts['at'] ?? $set->captured_at->getTimestamp()),
            $set->remarks ?? [],
            TableContents::ofSchemas($facts['counted'] ?? []),
            (bool) ($facts['hasComments'] ?? true),
            (bool) ($facts['namesSchema'] ?? false),
        );
    }

    /** @param  list<DumpSection>  $sections */
    public static function keepSections(BackupSet $set, array $sections): void
    {
        file_put_contents(
            self::sectionFile($set),
            implode(
                '',
                array_map(
                    fn (DumpSection $section): string => json_encode(
                        $section->toArray(),
                        JSON_INVALID_UTF8_SUBSTITUTE | JSON_UNESCAPED_UNICODE,
                    )."\n",
                    $sections,
                ),
            ),
        );
    }

    /** @return list<DumpSection> */
    public static function sections(BackupSet $set): array
    {
        $sections = [];
        foreach (@file(self::sectionFile($set)) ?: [] as $line) {
            $row = json_decode($line, true);
            if (is_array($row)) {
                $sections[] = DumpSection::fromArray($row);
            }
        }

        return $sections;
    }

    private static function sectionFile(BackupSet $set): string
    {
        return Instance::folder('index')."/{$set->id}.sections";
    }
}
