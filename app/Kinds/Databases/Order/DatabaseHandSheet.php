<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Intake\DumpFacts;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Proof\HandSheet;

/**
 * The same state as commands for a person: the dump loaded into an empty server, the logs rolled forward on it under the
 * names they had. It needs sh, gzip, mariadb and mariadb-binlog.
 */
final readonly class DatabaseHandSheet
{
    /** A dump is text that the client takes orders from, \! for a shell among them: none are taken, and no file is read or written. */
    private const CLIENT = 'mariadb "$@" --sandbox --binary-mode --local-infile=0';

    /**
     * @param  list<Reach>  $reaches
     * @param  list<string>  $skip
     * @param  string  $below  stands before paths below the store; '' for whole paths
     */
    public function __construct(private DatabasePoints $points, private array $reaches, private array $skip, private string $below)
    {
    }

    public function script(): string
    {
        $sheet =
            "#!/bin/sh\n# {$this->remark($this->points->workload->name)} by hand, with ordinary tools.\n".
            '# Run it with the options by which mariadb reaches an EMPTY server, such as: sh THIS-SHEET --socket=/run/spare.sock '.
            "--user=root\n".
            "# On a server that holds anything the logs would be rolled forward into it: they name schemas and tables as they were.\n".
            "set -eu\n[ \$# -gt 0 ] || { echo \"usage: sh \$0 OPTIONS-OF-MARIADB\" >&2; exit 2; }\nhere=\$(cd \"\$(dirname \"\$0\")\" && ".
            "pwd)\n".
            'left=$('.
            self::CLIENT.
            ' --batch --skip-column-names -e "SELECT COUNT(*) FROM information_schema.schemata'.
            " WHERE schema_name NOT IN ('mysql', 'information_schema', 'performance_schema', 'sys')\")\n".
            "[ \"\$left\" -eq 0 ] || { echo 'That server is not empty.' >&2; exit 2; }\nwork=\$(mktemp -d)\ntrap 'rm -rf \"\$work\"' ".
            "EXIT\nexport TZ=UTC\n";
        foreach ($this->reaches as $reach) {
            $sheet .= $this->part($reach);
        }

        return $sheet."echo 'It is there. Compare the rows before you copy any of them out.'\n";
    }

    private function part(Reach $reach): string
    {
        $facts = DumpFacts::ofSet($reach->dump);
        $dump = $this->path($reach->dump);
        $lines =
            "\n# The dump {$this->remark($reach->dump->name)}, of {$reach->dump->captured_at->format('Y-m-d H:i:s')} UTC.\n".
            self::unpacked($dump).
            " > \"\$work/dump.sql\"\n";
        $into = '';
        if (! $facts->namesSchema) {
            $name = $reach->schemas[0] ?? 'restored';
            $lines .= self::CLIENT.' -e '.HandSheet::quoted('CREATE DATABASE `'.str_replace('`', '``', $name).'`')."\n";
            $into = ' --database='.HandSheet::quoted($name);
        }
        // Where a default takes a number from a sequence, a table cannot be filled while only it is locked (error 1100).
        $lines .= "sed '/^LOCK TABLES .* WRITE;\$/d' \"\$work/dump.sql\" | ".self::CLIENT."$into\n";
        if ($reach->logs === [] || $reach->from === null || $reach->until === null) {
            return $lines;
        }
        $lines .= "\n# The logs, from {$reach->from->text()} to {$reach->until->text()}.\n";
        $this->points->transactions->setsOf(array_map(fn (LogFacts $log): string => $log->file, $reach->logs)); // at one time
        foreach ($reach->logs as $log) {
            $lines .=
                self::unpacked($this->path($this->points->transactions->mustBe($log->file))).
                ' > "$work"/'.
                HandSheet::quoted($log->file).
                "\n";
        }
        $from = $reach->from;
        $stops = [];
        foreach ($this->skip as $gtid) {
            $transaction = $this->points->transactions->byGtid($gtid);
            $begins = $transaction?->begins();
            if ($begins !== null && ! $reach->from->isAfter($begins) && $reach->until->isAfter($begins)) {
                $stops[] = [$begins, $transaction->ends()];
            }
        }
        usort($stops, fn (array $a, array $b): int => $a[0]->isAfter($b[0]) ? 1 : -1);
        foreach ([...$stops, [$reach->until, $reach->until]] as [$until, $next]) {
            $lines .= $this->roll($reach->logs, $from, $until);
            $from = $next;
        }

        return $lines.'rm -f "$work"/*'."\n";
    }

    /** @param  list<LogFacts>  $logs */
    private function roll(array $logs, LogPosition $from, LogPosition $until): string
    {
        $files = array_filter($logs, fn (LogFacts $log): bool => $log->number() >= $from->number() && $log->number() <= $until->number());
        if ($files === [] || ! $until->isAfter($from)) {
            return '';
        }

        $names = implode(' ', array_map(fn (LogFacts $log): string => HandSheet::quoted($log->file), $files));
        $span = "--start-position={$from->offset} --stop-position={$until->offset}";

        return "(cd \"\$work\" && mariadb-binlog --no-defaults --disable-log-bin --verify-binlog-checksum $span $names)".
            " > \"\$work/replay.sql\"\n".
            self::CLIENT.
            " < \"\$work/replay.sql\"\n";
    }

    private function path(\App\Models\BackupSet $set): string
    {
        $copy = $set->copies->first();

        return $copy === null
            ? "''"
            : ($this->below === ''
                ? HandSheet::quoted("{$copy->store->root}/{$copy->path}")
                : $this->below.HandSheet::quoted($copy->path));
    }

    private static function unpacked(string $path): string
    {
        return "gzip -cdf $path";
    }

    private function remark(string $text): string
    {
        return Shown::name($text);
    }
}
