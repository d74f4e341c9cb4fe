<?php

declare(strict_types=1);

namespace App\Care;

use App\Kinds\Databases\Intake\AlreadyKnown;
use App\Kinds\Databases\Intake\DatabaseRegistration;
use App\Kinds\Databases\Intake\LogBases;
use App\Kinds\Files\Intake\Adoption;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\SidecarFiles;
use App\Trees\Intake\FoundSet;
use App\Trees\Intake\SetRegistration;
use InvalidArgumentException;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Database\UnreadableLog;
use Kaiseki\Core\Instant;

/**
 * The catalog from the media: what lies in a store of ours is taken in again, set by set in the order in which they were
 * made, by the manifests beside the archives, or, where those are missing or do not fit, from the archives themselves.
 */
final class Rebuild
{
    private const DIGEST = '/^[0-9a-f]{64}$/D';

    /** @var list<array{workload: string, set: string, from: string}> from: manifest, archive or known */
    public array $sets = [];

    /** @var list<array{file: string, because: string}> */
    public array $problems = [];

    /** @param  (callable(string): void)|null  $progress  told the set in hand */
    public function __construct(private readonly Store $store, private readonly bool $readArchives = false, private $progress = null)
    {
        if ($store->kind !== 'folder') {
            throw new InvalidArgumentException("The catalog is rebuilt from a folder; bring what lies on {$store->name} to one first.");
        }
    }

    /** @param  string|null  $only  a workload's name */
    public function run(?string $only = null): void
    {
        foreach (glob("{$this->store->root}/*", GLOB_ONLYDIR) ?: [] as $folder) {
            $name = basename($folder);
            if ($name !== 'night-kit' && ($only === null || $only === $name)) {
                $this->workload($name, $folder);
            }
        }
    }

    private function workload(string $name, string $folder): void
    {
        $records = [];
        foreach (glob("$folder/*.tar*") ?: [] as $archive) {
            if (preg_match('/\.tar(\.gz)?$/D', $archive) === 1) {
                $record = $this->record($name, $archive);
                if ($record !== null) {
                    $records[] = $record;
                }
            }
        }
        $this->databases($name, $folder);
        usort($records, fn (array $a, array $b): int => [$a[0]->capturedAt->microseconds, $a[0]->level->isFull() ? 0 : 1, $a[0]->name] <=> [$b[0]->capturedAt->microseconds, $b[0]->level->isFull() ? 0 : 1, $b[0]->name]);
        if ($records === []) {
            return;
        }
        $workload = Workload::query()->firstOrCreate(['name' => $name], ['kind' => 'files', 'site' => $this->store->site]);
        $registration = new SetRegistration($workload, $this->store);
        foreach ($records as [$found, $digest, $bytes]) {
            if ($this->progress !== null) {
                ($this->progress)($found->name);
            }
            $this->set($workload, $registration, $found, $digest, $bytes);
        }
    }

    /** Dumps and binary logs, each by its own content; logs first, since they tell when a dump was. */
    private function databases(string $name, string $folder): void
    {
        $files = glob("$folder/*.[0-9][0-9][0-9][0-9][0-9][0-9]*.gz") ?: [];
        $files = [...array_values(array_filter($files, fn (string $file): bool => preg_match('/\.\d{6,}\.gz$/D', $file) === 1)), ...(glob("$folder/*.sql.gz") ?: [])];
        if ($files === []) {
            return;
        }
        $workload = Workload::query()->firstOrCreate(['name' => $name], ['kind' => 'database', 'site' => $this->store->site]);
        $registration = new DatabaseRegistration($workload, $this->store, History::query()->firstOrCreate(['workload_id' => $workload->id, 'name' => '1']));
        foreach ($files as $file) {
            $path = "$name/".basename($file);
            if ($this->progress !== null) {
                ($this->progress)(basename($file));
            }
            try {
                $set = str_ends_with($file, '.sql.gz') ? $registration->dump($path) : $registration->log($path);
                $this->sets[] = ['workload' => $name, 'set' => $set->name, 'from' => 'archive'];
            } catch (AlreadyKnown) {
                $this->sets[] = ['workload' => $name, 'set' => preg_replace('/(\.sql)?\.gz$/', '', basename($file)) ?? '', 'from' => 'known'];
            } catch (UnreadableArchive|UnreadableLog $unreadable) {
                $this->problems[] = ['file' => $path, 'because' => "It {$unreadable->getMessage()}."];
            }
        }
        LogBases::settle($workload);
    }

    private function set(Workload $workload, SetRegistration $registration, FoundSet $found, ?string $digest, int $bytes): void
    {
        $known = $workload->sets()->where('name', $found->name)->first();
        $archive = "{$this->store->root}/{$found->path}";
        if ($known !== null) {
            $beside = SidecarFiles::digests($archive, $found->name);
            Copy::query()->firstOrCreate(['set_id' => $known->id, 'store_id' => $this->store->id], ['path' => $found->path, 'bytes' => (int) filesize($archive), 'state' => 'ok', 'gzipped' => str_ends_with($archive, 'gz'), 'has_beside' => $beside !== null]);
            $this->sets[] = ['workload' => $workload->name, 'set' => $found->name, 'from' => 'known'];

            return;
        }
        try {
            if (! $this->readArchives && $digest !== null) {
                try {
                    $registration->addByManifest($found, $digest, $bytes);
                    $this->sets[] = ['workload' => $workload->name, 'set' => $found->name, 'from' => 'manifest'];

                    return;
                } catch (InvalidArgumentException $wrong) {
                    $this->problems[] = ['file' => "{$found->name}.manifest.jsonl", 'because' => "{$wrong->getMessage()} The archive was read instead."];
                }
            }
            $registration->add($found);
            $this->sets[] = ['workload' => $workload->name, 'set' => $found->name, 'from' => 'archive'];
        } catch (UnreadableArchive|CannotRegister $cannot) {
            $this->problems[] = ['file' => $found->path, 'because' => 'It '.$cannot->getMessage().'.'];
        }
    }

    /** @return array{FoundSet, string|null, int}|null what is recorded, the digest of the archive if its manifest may be believed, its bytes */
    private function record(string $workload, string $archive): ?array
    {
        $name = Adoption::setName($archive);
        $path = "$workload/".basename($archive);
        $record = json_decode((string) @file_get_contents(dirname($archive)."/$name.set.json"), true);
        try {
            if (is_array($record) && ($record['name'] ?? null) === $name) {
                $found = new FoundSet(
                    $path, $name, Level::of((string) ($record['level'] ?? '')), Instant::parse((string) ($record['captured_at'] ?? '')), isset($record['base']) ? (string) $record['base'] : null, (string) ($record['history'] ?? '1'),
                    isset($record['captured_from']) ? Instant::parse((string) $record['captured_from']) : null, (string) ($record['consistency'] ?? 'unknown'), array_values(array_map(strval(...), array_filter((array) ($record['remarks'] ?? []), is_string(...)))),
                );
                $digest = (string) ($record['blake2b_256'] ?? '');
                $manifest = ContentDigest::ofFile(dirname($archive)."/$name.manifest.jsonl");
                $fits = preg_match(self::DIGEST, $digest) === 1 && ($record['bytes'] ?? null) === filesize($archive) && $manifest !== null && ($record['manifest_blake2b_256'] ?? null) === bin2hex($manifest);
                if (! $fits) {
                    $this->problems[] = ['file' => "$name.set.json", 'because' => 'It does not fit the archive or the manifest; the archive was read instead.'];
                }

                return [$found, $fits ? $digest : null, (int) filesize($archive)];
            }
            if (preg_match('/\.(?<level>full|diff|incr|log|snapshot|[0-9])\.(?<stamp>\d{8}T\d{6}Z)$/D', $name, $m) === 1) {
                return [new FoundSet($path, $name, Level::of($m['level']), Instant::parse($m['stamp']), null), null, (int) filesize($archive)];
            }
            $this->problems[] = ['file' => $path, 'because' => 'There is no record beside it, and its name does not say what it is.'];
        } catch (InvalidArgumentException $wrong) {
            $this->problems[] = ['file' => $path, 'because' => $wrong->getMessage()];
        }

        return null;
    }
}
