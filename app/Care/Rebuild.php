<?php

declare(strict_types=1);

namespace App\Care;

use App\Kinds\Kinds;
use App\Kinds\RebuildOrder;
use App\Kinds\RebuiltSet;
use App\Kinds\RefusedFile;
use App\Models\Store;
use App\Models\Workload;
use InvalidArgumentException;

/**
 * The catalog from the media: what lies in a store of ours is taken in again, set by set in the order in which they were
 * made, by the manifests beside the archives, or, where those are missing or do not fit, from the archives themselves.
 */
final class Rebuild
{
    /** Bytes: a record that is longer is none of ours. */
    private const LARGEST_RECORD = 64 << 20;

    /** @var list<RebuiltSet> */
    public array $sets = [];

    /** @var list<RefusedFile> */
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
                $this->workload($name);
            }
        }
    }

    /**
     * A workload that is known has its kind already; else the records beside its sets tell it; those of a version before do not, and each
     * kind takes what is its own.
     */
    private function workload(string $name): void
    {
        $known = Workload::query()->where('name', $name)->value('kind') ?? $this->kindSaid($name);
        foreach ($known === null ? Kinds::all() : [Kinds::named($known)] as $kind) {
            $order = new RebuildOrder($this->store, $name, $this->readArchives, function (string $set): void {
                if ($this->progress !== null) {
                    ($this->progress)($set);
                }
            });
            $rebuilt = $kind->intake()->rebuild($order);
            $this->sets = [...$this->sets, ...$rebuilt->sets];
            $this->problems = [...$this->problems, ...$rebuilt->problems];
            if ($rebuilt->sets !== []) {
                return;
            }
        }
    }

    /** The kind that a record beside a set names; null where none does. */
    private function kindSaid(string $workload): ?string
    {
        foreach (glob("{$this->store->root}/$workload/*.set.json") ?: [] as $file) {
            $kind = (json_decode((string) @file_get_contents($file, false, null, 0, self::LARGEST_RECORD), true) ?? [])['kind'] ?? null;
            if (is_string($kind) && preg_match('/^[a-z]{1,20}$/D', $kind) === 1) {
                return $kind;
            }
        }

        return null;
    }
}
