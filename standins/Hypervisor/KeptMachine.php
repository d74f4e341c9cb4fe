<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\RemoteHypervisor;
use Kaiseki\Core\Hypervisor\SnapshotSeen;

/** A machine of a stand-in hypervisor as its folder keeps it: a file under its name, which says what its images are called. */
final readonly class KeptMachine
{
    /**
     * @param  string  $folder  of the hypervisor
     * @param  string  $id  what its images and sockets are called; it keeps that whatever it is named
     * @param  array<string, string>  $storages  disk => storage
     * @param  array<string, DiskDoor>  $sources  disk => what it is read from where nothing was written to it yet
     * @param  array<string, SnapshotSeen>  $snapshots
     * @param  array<string, array{string, string}>  $moves  disk => the storages from and to which it is moved
     */
    public function __construct(
        private string $folder,
        public string $id,
        public MachineSettings $settings,
        public array $storages,
        private array $sources = [],
        public array $moves = [],
        public array $snapshots = [],
    ) {
    }

    /** @return list<string> */
    public static function names(string $folder): array
    {
        return array_map(fn (string $file): string => basename($file, '.json'), glob("$folder/machines/*.json") ?: []);
    }

    public static function read(string $folder, string $name): ?self
    {
        $isName = preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) === 1;
        $kept = $isName ? json_decode((string) @file_get_contents(self::file($folder, $name)), true) : null;
        if (! is_array($kept)) {
            return null;
        }

        return new self(
            $folder,
            $kept['id'] ?? $name,
            MachineSettings::fromArray(['name' => $name] + $kept['settings']),
            $kept['storages'],
            array_map(fn (array $from): DiskDoor => new DiskDoor(self::served($folder, $from[0]), $from[1]), $kept['sources'] ?? []),
            $kept['moves'] ?? [],
            array_map(SnapshotSeen::fromArray(...), $kept['snapshots'] ?? []),
        );
    }

    /** What no other machine's images are called. */
    public static function freeId(string $folder, string $name): string
    {
        $taken = array_map(fn (string $other): ?string => self::read($folder, $other)?->id, self::names($folder));
        for ($id = $name, $i = 2; in_array($id, $taken, true); $i++) {
            $id = "$name~$i";
        }

        return $id;
    }

    private static function file(string $folder, string $name): string
    {
        return "$folder/machines/$name.json";
    }

    /** Where somebody else serves disks for it. */
    private static function served(string $folder, string $name): string
    {
        return $folder.'/'.RemoteHypervisor::SERVED.'/'.basename($name);
    }

    public function with(mixed ...$changes): self
    {
        return new self(...$changes + get_object_vars($this));
    }

    /** Without a disk of its own; that one's image stays. */
    public function without(string $disk): self
    {
        $others = fn (array $of): array => array_diff_key($of, [$disk => true]);

        return $this->with(
            settings: $this->settings->without($disk),
            storages: $others($this->storages),
            sources: $others($this->sources),
            moves: $others($this->moves),
        );
    }

    public function keep(): void
    {
        $file = self::file($this->folder, $this->settings->name);
        $kept = json_encode([
            'id' => $this->id,
            'settings' => $this->settings->toArray(),
            'storages' => $this->storages,
            'sources' => array_map(fn (DiskDoor $from): array => [basename($from->socket), $from->export], $this->sources),
            'moves' => $this->moves,
            'snapshots' => array_map(fn (SnapshotSeen $one): array => $one->toArray(), $this->snapshots),
        ], JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT);
        (file_put_contents("$file.new", $kept) === strlen($kept) && rename("$file.new", $file)) ||
            throw HypervisorFailure::because('the settings cannot be kept: there is no room');
    }

    /** Under its name; its images stay. */
    public function forget(): void
    {
        unlink(self::file($this->folder, $this->settings->name));
    }

    public function image(string $disk): string
    {
        $storage = $this->storages[$disk] ?? throw HypervisorFailure::because("{$this->settings->name} has no disk ".mb_scrub($disk));

        return $this->imageOn($storage, $disk);
    }

    public function imageOn(string $storage, string $disk): string
    {
        return "{$this->folder}/storages/$storage/{$this->id}.$disk.qcow2";
    }

    /** Nothing moves a disk any more: the image that is not the machine's goes. */
    public function moved(string $disk): self
    {
        foreach ($this->moves[$disk] ?? [] as $storage) {
            $storage === $this->storages[$disk] || @unlink($this->imageOn($storage, $disk));
        }
        $rested = $this->with(moves: array_diff_key($this->moves, [$disk => true]));
        $rested->keep();

        return $rested;
    }

    /** @return array<string, string> disk => image */
    public function images(): array
    {
        $images = [];
        foreach (array_keys($this->storages) as $disk) {
            $images[(string) $disk] = $this->image((string) $disk);
        }

        return $images;
    }

    /** Those of its firmware. */
    public function variables(): string
    {
        return "{$this->folder}/machines/{$this->id}.vars";
    }

    public function process(): QemuProcess
    {
        return QemuProcess::of("{$this->folder}/run", $this->id);
    }

    /** @return array<string, DiskDoor> disk => from where it is read; those that have all of theirs themselves are none of them any more */
    public function sources(): array
    {
        return array_filter($this->sources, fn (string $disk): bool => $this->rests($this->image($disk)), ARRAY_FILTER_USE_KEY);
    }

    /** Whether an image names another below it ("backing_file_offset" of its header: docs/interop/qcow2 of QEMU). */
    private function rests(string $image): bool
    {
        $header = (string) @file_get_contents($image, false, null, 0, 16);

        return strlen($header) === 16 && unpack('J', $header, 8)[1] !== 0;
    }
}
