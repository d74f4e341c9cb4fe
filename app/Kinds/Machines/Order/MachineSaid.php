<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Machines;
use App\Models\Host;
use App\Models\RecoveryRequest;
use Kaiseki\Core\Chain\CopyRule;

/** What was said of an order of a machine, as it is kept with its request. */
final readonly class MachineSaid
{
    private const VERSION = 1;

    /**
     * @param  list<string>  $disks  none for all
     * @param  string  $format  a value of ImageFormat
     * @param  int|null  $host  id; null for a new folder of this machine
     * @param  string  $folder  of that host
     * @param  bool  $part  whether what cannot be had may be left as zeros
     * @param  list<string>  $paths  of files to be brought out of it instead of images, percent-encoded, as MachineTree::find() takes them
     * @param  string  $conflict  a value of ConflictRule, for files
     * @param  string  $on  name of a hypervisor that the machine is brought back at; '' for images in a folder
     * @param  string  $into  a machine at that hypervisor, off or running, that files are brought into; '' for none
     * @param  string  $inside  the folder of it, percent-encoded; '' for the place that each had
     * @param  string  $way  a value of MachineWay; what follows is as PlacementWish has it
     */
    public function __construct(
        public array $disks = [],
        public string $format = 'qcow2',
        public ?int $host = null,
        public string $folder = '',
        public bool $part = false,
        public array $paths = [],
        public string $conflict = 'beside',
        public string $on = '',
        public string $way = 'whole',
        public string $machine = '',
        public string $storage = '',
        public string $network = '',
        public ?int $memory = null,
        public ?int $cores = null,
        public string $cards = PlacementWish::CONNECTED,
        public bool $newMac = false,
        public bool $setsAside = false,
        public bool $stopsIt = false,
        public bool $starts = false,
        public ?int $limit = null,
        public ?int $until = null,
        public ?int $follow = null,
        public bool $annex = false,
        public bool $background = false,
        public ?int $joins = null,
        public string $into = '',
        public string $inside = '',
        public bool $shutsDown = false,
    ) {
    }

    public static function of(RecoveryRequest $request): self
    {
        $said = $request->saidOf(Machines::NAME);

        return $said === [] ? self::usual($request) : new self(...array_intersect_key($said, get_class_vars(self::class)));
    }

    /** Before anything is said: a machine goes back to the hypervisor that it is known to be at, and what stands there is rolled back. */
    private static function usual(RecoveryRequest $request): self
    {
        [$host, $machine] = ($request->workload === null ? null : HypervisorHost::of($request->workload)) ?? [null, ''];
        $stands = $host?->silent === null && isset($host?->lastSeen()->machines[$machine]);

        return $host === null ? new self : new self(
            on: $host->name,
            way: ($stands ? MachineWay::Rollback : MachineWay::Whole)->value,
            starts: true,
        );
    }

    /** The same with other values of some of its fields. */
    public function with(mixed ...$changes): self
    {
        return new self(...$changes + get_object_vars($this));
    }

    /** @return list<string> bytes */
    public function selection(): array
    {
        return array_map(rawurldecode(...), $this->paths);
    }

    /** Null where it goes to a folder. */
    public function wish(CopyRule $copies): ?PlacementWish
    {
        return $this->on === '' ? null : new PlacementWish(
            MachineWay::tryFrom($this->way) ?? MachineWay::Whole,
            $this->on,
            $this->machine,
            $this->storage,
            $this->network,
            $this->disks,
            $this->memory,
            $this->cores,
            null,
            null,
            $this->cards,
            $this->newMac,
            $this->setsAside,
            $this->stopsIt,
            $this->starts,
            $this->part,
            $copies,
            $this->limit,
            $this->until,
            $this->follow,
            $this->annex,
            $this->background,
            $this->joins,
            $this->shutsDown,
        );
    }

    public function host(): ?Host
    {
        return $this->host === null ? null : Host::query()->find($this->host);
    }

    /** Takes the place of what was said before; the request is not saved yet. */
    public function keepOn(RecoveryRequest $request): RecoveryRequest
    {
        return $request->say(Machines::NAME, self::VERSION, get_object_vars($this));
    }
}
