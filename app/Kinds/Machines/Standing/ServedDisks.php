<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Instance;
use App\Kinds\Machines\Disks\DiskImages;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Models\Run;
use App\Models\Store;
use App\Runs\WorkerProcess;
use App\Stores\OpenStores;
use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\UnableToWrite;

/**
 * Disks of a point that are served to a hypervisor for as long as a machine stands on them: a document in the home, which holds all that
 * whoever serves them needs to know. So they are served on while the database is away, and again by whoever comes after one that died.
 */
final readonly class ServedDisks
{
    private const FOLDER = 'serving';

    private function __construct(public string $name)
    {
    }

    public static function of(Run $run): self
    {
        return new self("r{$run->id}");
    }

    public static function ofFile(string $file): self
    {
        return new self(basename($file, '.json'));
    }

    /** @return list<self> all there are */
    public static function all(): array
    {
        return array_map(self::ofFile(...), glob(Instance::folder(self::FOLDER).'/*.json') ?: []);
    }

    private function file(string $ending): string
    {
        return Instance::folder(self::FOLDER)."/{$this->name}.$ending";
    }

    /**
     * From now on somebody serves them.
     *
     * @param  string  $socket  at which
     *
     * @throws UnableToWrite
     */
    public function begin(PlannedDisks $planned, string $socket): void
    {
        $disks = array_map(fn ($disk): array => $disk->images()->toArray(), $planned->disks);
        $stores = Store::query()->get()->map(fn (Store $store): array => $store->getAttributes())->all();
        $document = json_encode(['socket' => $socket, 'disks' => $disks, 'stores' => $stores], JSON_THROW_ON_ERROR);
        $this->put('json', $document);
    }

    /**
     * @param  array<string>  $disks
     * @return array<string, DiskDoor> by the name of the disk
     */
    public static function doors(string $socket, array $disks): array
    {
        return array_map(fn (string $disk): DiskDoor => new DiskDoor($socket, $disk), array_combine($disks, $disks));
    }

    /** Nobody needs them any more: whoever serves them ends. */
    public function end(): void
    {
        foreach (['json', 'state'] as $ending) {
            @unlink($this->file($ending));
        }
    }

    public function isWanted(): bool
    {
        clearstatcache(true, $this->file('json'));

        return is_file($this->file('json'));
    }

    /**
     * Whoever serves them holds this: of two that would, one does.
     *
     * @return resource|null null if another does, or they are not wanted
     */
    public function own()
    {
        $file = @fopen($this->file('json'), 'rb');

        return $file !== false && flock($file, LOCK_EX | LOCK_NB) ? $file : null;
    }

    /** @return array{string, array<string, DiskImages>} the socket, and the disks */
    public function read(): array
    {
        $kept = json_decode((string) file_get_contents($this->file('json')), true, 32, JSON_THROW_ON_ERROR);
        $stores = [];
        foreach ($kept['stores'] as $row) {
            $stores[$row['id']] = (new Store)->newFromBuilder($row);
        }
        $open = new OpenStores;

        return [$kept['socket'], array_map(fn (array $disk): DiskImages => DiskImages::fromArray($disk, $open, $stores), $kept['disks'])];
    }

    /** @throws UnableToWrite */
    public function tell(ServedState $state): void
    {
        $this->put('state', json_encode(['by' => WorkerProcess::own()] + $state->toArray(), JSON_THROW_ON_ERROR));
    }

    /** Whether somebody serves them now. */
    public function isServed(): bool
    {
        $told = json_decode((string) @file_get_contents($this->file('state')), true);

        return is_array($told) && WorkerProcess::isAlive((string) ($told['by'] ?? ''));
    }

    /** What was read of them, as far as it was told. */
    public function state(): ServedState
    {
        $told = json_decode((string) @file_get_contents($this->file('state')), true);

        return is_array($told) ? ServedState::fromArray($told) : new ServedState;
    }

    private function put(string $ending, string $content): void
    {
        $file = $this->file($ending);
        if (@file_put_contents("$file.new", $content) !== strlen($content) || ! rename("$file.new", $file)) {
            throw UnableToWrite::full($file);
        }
    }
}
