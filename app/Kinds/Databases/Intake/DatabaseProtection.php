<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Hosts\HostCommand;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Run\TableContents;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\ServerFacts;
use App\Kinds\Databases\Server\ServerLink;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\Protection;
use InvalidArgumentException;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Database\DumpSection;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\SystemClock;
use PDOException;
use Symfony\Component\Process\Process;

/** Makes fulls (dumps of one moment) and log sets (closed binary logs) of a database server. */
final class DatabaseProtection
{
    private ?History $history = null;

    public function __construct(
        private readonly Workload $workload,
        private readonly Store $store,
        private readonly Clock $clock = new SystemClock,
    ) {
    }

    /**
     * @param  list<string>|null  $before
     * @param  list<string>|null  $after
     *
     * @throws InvalidArgumentException|CannotRegister
     */
    public function make(Level $level, bool $newHistory, ?array $before, ?array $after, int $limit): BackupSet
    {
        $began = hrtime(true);
        $this->history = null;
        if (! $level->isFull() && ! $level->isLog()) {
            throw new InvalidArgumentException("A database has no {$level->words()}s: make a full, or a log.");
        }
        $closed = Protection::closed($this->store);
        $server =
            DatabaseServer::of($this->workload) ??
            throw new InvalidArgumentException(
                "It is not known on which server {$this->workload->name} lives: kaiseki server add {$this->workload->name} ...",
            );
        $commands = $before === null ? [] : [HostCommand::run('before', $before, sys_get_temp_dir(), $limit)];
        try {
            $link = ServerLink::to($server);
            $facts = ServerFacts::ask($link);
            if (! is_dir($this->folder())) {
                mkdir($this->folder(), 0700, true);
            }
            $set = $level->isLog()
                ? $this->log($link)
                : $this->full($link, $server, $facts, $newHistory || HistoryBreaks::since($this->workload));
        } catch (CannotReachServer|CannotRestore $cannot) {
            throw CannotRegister::because($cannot->getMessage());
        } catch (PDOException $failure) {
            throw CannotRegister::because("{$server->name} refused: ".mb_scrub($failure->getMessage()));
        } finally {
            if ($after !== null) {
                $commands[] = HostCommand::run('after', $after, sys_get_temp_dir(), $limit);
            }
        }
        $server->update(['facts' => $facts->toArray(), 'asked_at' => now()]);
        LogBases::settle($this->workload);
        $set->refresh()->update([
            'made_in_s' => round((hrtime(true) - $began) / 1e9, 3),
            'commands' => $commands === [] ? null : array_map(fn (HostCommand $command): array => $command->toArray(), $commands),
            'remarks' => array_values(
                array_unique([
                    ...$set->remarks ?? [],
                    ...$closed,
                    ...$facts->warnings(),
                    ...array_filter(array_map(fn (HostCommand $command): ?string => $command->remark(), $commands)),
                ]),
            ),
        ]);

        return $set;
    }

    private function folder(): string
    {
        return "{$this->store->root}/{$this->workload->name}";
    }

    private function registration(bool $newHistory): DatabaseRegistration
    {
        return new DatabaseRegistration($this->workload, $this->store, $this->history($newHistory));
    }

    /** That of the newest set, or the next number. */
    private function history(bool $new): History
    {
        if ($this->history !== null) {
            return $this->history;
        }
        $newest = $this->workload->histories()->orderByDesc('id')->first();
        $name = $newest === null ? '1' : ($new ? (string) ($this->workload->histories()->count() + 1) : $newest->name);

        return $this->history = History::query()->firstOrCreate(['workload_id' => $this->workload->id, 'name' => $name]);
    }

    private function full(ServerLink $link, DatabaseServer $server, ServerFacts $facts, bool $newHistory): BackupSet
    {
        $schemas = array_values(array_filter($link->schemas(), fn (string $schema): bool => ! str_starts_with($schema, 'kaiseki_')));
        if ($schemas === []) {
            throw CannotRegister::because('The server has no schema of its own yet: there is nothing to dump.');
        }
        $now = intdiv($this->clock->now()->microseconds, 1_000_000);
        $name = $this->workload->name.'.full.'.gmdate('Ymd\THis\Z', $now);
        $path = $this->folder()."/$name.sql.gz";
        if (file_exists($path)) {
            throw CannotRegister::because("There is a set $name already; wait a second and make it again.");
        }
        $partial = "$path.partial";
        try {
            $dump = MomentDump::write($link, $server, $schemas, $partial);
            SetRecordBeside::write($this->folder()."/$name", $partial, "$name.sql.gz", 'full', $this->history($newHistory)->name, [
                'at' => $now,
                'captured_at' => gmdate('Y-m-d\TH:i:s\Z', $now),
                'log_file' => $dump->scan->logFile,
                'log_position' => $dump->scan->logPosition,
                'gtid' => $dump->scan->gtid,
                'server' => ['version' => $facts->version, 'uid' => $facts->uid, 'id' => $facts->serverId],
                'counted' => array_map(TableContents::kept(...), $dump->counted),
                'members' => $dump->members,
                'sections' => array_map(fn (DumpSection $section): array => $section->toArray(), $dump->scan->sections),
            ]);
            rename($partial, $path);
        } finally {
            @unlink($partial);
        }
        try {
            $set = $this->registration($newHistory)->dump("{$this->workload->name}/$name.sql.gz");
        } catch (\Kaiseki\Core\Archive\UnreadableArchive $unreadable) {
            throw CannotRegister::because("The dump that was made {$unreadable->getMessage()}.");
        }
        $set->update([
            'captured_from' => gmdate('Y-m-d H:i:s', $now),
            'remarks' => [...$set->remarks ?? [], ...$dump->remarks()],
        ]);

        return $set;
    }

    private function log(ServerLink $link): BackupSet
    {
        if (! $link->keepsLog) {
            throw CannotRegister::because('The server keeps no binary log (log_bin).');
        }
        $link->exec('FLUSH BINARY LOGS');
        $logs = $link->column('SHOW BINARY LOGS');
        array_pop($logs); // the one that it writes now
        $known = $this->workload->sets()->where('level', 'log')->pluck('name')->all();
        $new = array_values(array_diff($logs, $known));
        if ($new === []) {
            throw CannotRegister::because('No log was closed since the last one.');
        }
        $raw = $this->folder().'/.fetch';
        (new Process(['rm', '-rf', $raw]))->run();
        mkdir($raw);
        try {
            $fetch = new Process(
                [
                    'mariadb-binlog',
                    ...array_diff($link->arguments(), ['--default-character-set=utf8mb4']),
                    '--read-from-remote-server',
                    '--raw',
                    "--result-file=$raw/",
                    ...$new,
                ],
                null,
                $link->environment(),
                null,
                null,
            );
            $fetch->run();
            if (! $fetch->isSuccessful()) {
                throw CannotRegister::because(
                    'The logs could not be fetched (the account needs REPLICATION SLAVE): '.mb_scrub(trim($fetch->getErrorOutput())),
                );
            }
            $last = null;
            foreach ($new as $log) {
                self::compress("$raw/$log", $this->folder()."/$log.gz");
                SetRecordBeside::write(
                    $this->folder()."/$log",
                    $this->folder()."/$log.gz",
                    "$log.gz",
                    'log',
                    $this->history(false)->name,
                );
                try {
                    $last = $this->registration(false)->log("{$this->workload->name}/$log.gz");
                } catch (\Kaiseki\Core\Database\UnreadableLog $unreadable) {
                    throw CannotRegister::because("$log {$unreadable->getMessage()}.");
                }
            }

            return $last;
        } finally {
            (new Process(['rm', '-rf', $raw]))->run();
        }
    }

    private static function compress(string $from, string $to): void
    {
        $in = fopen($from, 'rb') ?: throw CannotRegister::because(basename($from).' did not come.');
        $out = fopen("$to.partial", 'wb') ?: throw CannotRegister::because("$to cannot be written.");
        $writer = new GzipMemberWriter($out, 8 << 20);
        while (($bytes = fread($in, 1 << 18)) !== false && $bytes !== '') {
            $writer->mayBeginMember();
            $writer->write($bytes);
        }
        $writer->finish();
        fclose($out);
        rename("$to.partial", $to);
    }
}
