<?php

declare(strict_types=1);

namespace App\Trees\Intake;

use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;
use App\Kinds\RebuiltSet;
use App\Kinds\RefusedFile;
use App\Models\Copy;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\SidecarFiles;
use InvalidArgumentException;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Exclusions;

/**
 * Archives of ours, taken in again in the order in which they were made: by the manifests beside them, or, where those are missing or do
 * not fit, from the archives themselves.
 */
final class ArchivesAgain
{
    private const DIGEST = '/^[0-9a-f]{64}$/D';

    private readonly Rebuilt $rebuilt;

    /**
     * @param  string  $kind  of which they are
     * @param  bool  $takesUnsaid  also those that do not say of which kind they are
     */
    public function __construct(private readonly RebuildOrder $order, private readonly string $kind, private readonly bool $takesUnsaid)
    {
        $this->rebuilt = new Rebuilt;
    }

    public function take(): Rebuilt
    {
        $records = [];
        foreach (glob("{$this->order->folder()}/*.tar*") ?: [] as $archive) {
            $record = preg_match('/\.tar(\.gz)?$/D', $archive) === 1 ? $this->record($archive) : null;
            if ($record !== null) {
                $records[] = $record;
            }
        }
        $rank = fn (array $record): array => [$record[0]->capturedAt->microseconds, $record[0]->level->isFull() ? 0 : 1, $record[0]->name];
        usort($records, fn (array $a, array $b): int => $rank($a) <=> $rank($b));
        if ($records === []) {
            return $this->rebuilt;
        }
        $workload = Workload::query()->firstOrCreate(
            ['name' => $this->order->workload],
            ['kind' => $this->kind, 'site' => $this->order->store->site],
        );
        $registration = new SetRegistration($workload, $this->order->store);
        foreach ($records as [$found, $digest, $bytes]) {
            ($this->order->progress)($found->name);
            $this->set($workload, $registration, $found, $digest, $bytes);
        }

        return $this->rebuilt;
    }

    private function set(Workload $workload, SetRegistration $registration, FoundSet $found, ?string $digest, int $bytes): void
    {
        $known = $workload->sets()->where('name', $found->name)->first();
        $archive = "{$this->order->store->root}/{$found->path}";
        if ($known !== null) {
            $beside = SidecarFiles::digests($archive, $found->name);
            Copy::query()->firstOrCreate(
                ['set_id' => $known->id, 'store_id' => $this->order->store->id],
                [
                    'path' => $found->path,
                    'bytes' => (int) filesize($archive),
                    'state' => 'ok',
                    'gzipped' => str_ends_with($archive, 'gz'),
                    'has_beside' => $beside !== null,
                ],
            );
            $this->rebuilt->sets[] = new RebuiltSet($workload->name, $found->name, RebuiltSet::KNOWN);

            return;
        }
        try {
            if (! $this->order->readArchives && $digest !== null) {
                try {
                    $registration->addByManifest($found, $digest, $bytes);
                    $this->rebuilt->sets[] = new RebuiltSet($workload->name, $found->name, RebuiltSet::BY_MANIFEST);

                    return;
                } catch (InvalidArgumentException $wrong) {
                    $this->rebuilt->problems[] = new RefusedFile(
                        "{$found->name}.manifest.jsonl",
                        "{$wrong->getMessage()} The archive was read instead.",
                    );
                }
            }
            $registration->add($found);
            $this->rebuilt->sets[] = new RebuiltSet($workload->name, $found->name, RebuiltSet::BY_ARCHIVE);
        } catch (UnreadableArchive|CannotRegister $cannot) {
            $this->rebuilt->problems[] = new RefusedFile($found->path, 'It '.$cannot->getMessage().'.');
        }
    }

    /**
     * @return array{FoundSet, string|null, int}|null what is recorded, the digest of the archive if its manifest may be believed, its
     *     bytes
     */
    private function record(string $archive): ?array
    {
        $name = Adoption::setName($archive);
        $path = "{$this->order->workload}/".basename($archive);
        $record = json_decode((string) @file_get_contents(dirname($archive)."/$name.set.json"), true);
        $kind = is_array($record) && is_string($record['kind'] ?? null) ? $record['kind'] : null;
        if ($kind === null ? ! $this->takesUnsaid : $kind !== $this->kind) {
            return null;
        }
        try {
            if (is_array($record) && ($record['name'] ?? null) === $name) {
                $found = new FoundSet(
                    $path,
                    $name,
                    Level::of((string) ($record['level'] ?? '')),
                    Instant::parse((string) ($record['captured_at'] ?? '')),
                    isset($record['base']) ? (string) $record['base'] : null,
                    (string) ($record['history'] ?? '1'),
                    isset($record['captured_from']) ? Instant::parse((string) $record['captured_from']) : null,
                    (string) ($record['consistency'] ?? 'unknown'),
                    array_values(array_map(strval(...), array_filter((array) ($record['remarks'] ?? []), is_string(...)))),
                    excluded: Exclusions::ofRecord($record['excluded'] ?? null),
                );
                $digest = (string) ($record['blake2b_256'] ?? '');
                $manifest = ContentDigest::ofFile(dirname($archive)."/$name.manifest.jsonl");
                $fits =
                    preg_match(self::DIGEST, $digest) === 1 &&
                    ($record['bytes'] ?? null) === filesize($archive) &&
                    $manifest !== null &&
                    ($record['manifest_blake2b_256'] ?? null) === bin2hex($manifest);
                if (! $fits) {
                    $this->rebuilt->problems[] = new RefusedFile(
                        "$name.set.json",
                        'It does not fit the archive or the manifest; the archive was read instead.',
                    );
                }

                return [$found, $fits ? $digest : null, (int) filesize($archive)];
            }
            if (preg_match('/\.(?<level>full|diff|incr|log|snapshot|[0-9])\.(?<stamp>\d{8}T\d{6}Z)$/D', $name, $m) === 1) {
                return [
                    new FoundSet($path, $name, Level::of($m['level']), Instant::parse($m['stamp']), null),
                    null,
                    (int) filesize($archive),
                ];
            }
            $this->rebuilt->problems[] = new RefusedFile(
                $path,
                'There is no record beside it, and its name does not say what it is.',
            );
        } catch (InvalidArgumentException $wrong) {
            $this->rebuilt->problems[] = new RefusedFile($path, $wrong->getMessage());
        }

        return null;
    }
}
