<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\SeenHost;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\UnfitSettings;
use Kaiseki\Core\UnableToRead;

/** What an order of a machine means at its point and at its hypervisor as it is now, and what stands in the way of it. */
final readonly class PlacementPlan
{
    /** Bytes that a disk takes beside its blocks: tables of its image. */
    private const BESIDE = 4 << 20;

    public PlannedDisks $planned;

    /**
     * @param  array<string, MachineSeen>  $machines  those of the hypervisor, by name
     * @param  bool  $isRecorded  whether the set says how the machine was configured
     * @param  list<string>  $without  disks that it had, and no set has
     */
    private function __construct(
        public Points $points,
        public SetOutline $point,
        public PlacementOrder $order,
        public PlacementWish $wish,
        public HostRoom $room,
        public array $machines,
        public bool $isRecorded,
        public array $without = [],
    ) {
        $this->planned = new PlannedDisks($points, $point, $order->disks, $order->copies);
    }

    /**
     * @param  SeenHost  $seen  as it is, or was when somebody looked
     *
     * @throws CannotBring if what is said can be no machine
     */
    public static function settle(Points $points, SetOutline $point, PlacementWish $wish, HypervisorHost $host, SeenHost $seen): self
    {
        [$room, $machines] = [$seen->room, $seen->machines];
        $original = HypervisorHost::of($points->workload);
        $known = $original !== null && $original[0]->is($host) ? $original[1] : $points->workload->name;
        $name = $wish->machine === '' ? $known : $wish->machine;
        try {
            $present = $machines[$name] ?? ($machines[$known] ?? null);
            $recorded = RecordedSettings::of($points->model($point), $name, $present?->settings, $room->networks[0] ?? null);
            $without = $recorded->without(array_map(strval(...), array_keys(ImagePlan::disksOf($points, $point))));
            $order = self::order($wish, $name, $recorded->settings, $without, $room, $machines);
        } catch (UnfitSettings $unfit) {
            throw CannotBring::because(ucfirst($unfit->getMessage()).'.');
        }
        $order = $order->with(sentence: self::words($points, $point, $order, 'UTC'));

        return new self($points, $point, $order, $wish, $room, $machines, $recorded->isRecorded, $without);
    }

    /**
     * @param  list<string>  $without
     * @param  array<string, MachineSeen>  $machines
     */
    private static function order(
        PlacementWish $wish,
        string $name,
        MachineSettings $was,
        array $without,
        HostRoom $room,
        array $machines,
    ): PlacementOrder {
        $disks = match (true) {
            ! $wish->way->needsDisks() => [],
            $wish->disks === [] => array_values(array_diff($was->diskNames(), $without)),
            default => $wish->disks,
        };
        $settings = $wish->way->isNew() ? self::changed($was->with(name: $name), $wish) : $was->with(name: $name);
        if ($wish->way->isNew() && count($disks) < count($settings->disks)) {
            $some = array_values(array_filter($settings->disks, fn (DiskSettings $disk): bool => in_array($disk->name, $disks, true)));
            $settings = $settings->with(disks: $some, boot: array_values(array_intersect($settings->boot, $disks)));
        }
        $isAnnexed = $wish->annex && $wish->way === MachineWay::StandUp;
        $storages = [];
        foreach ($wish->way->isNew() || $wish->way === MachineWay::Disks ? $disks : [] as $disk) {
            $there = $machines[$name]->storages[$disk] ?? null;
            $storages[$disk] =
                $wish->way === MachineWay::Disks && $there !== null
                    ? $there
                    : match (true) {
                        $wish->storage !== '' => $wish->storage,
                        default => $there ?? ($room->roomiest()->name ?? ''),
                    };
        }

        return new PlacementOrder(
            $wish->way,
            $wish->on,
            $name,
            $settings,
            $storages,
            $disks,
            $wish->way->isNew() && isset($machines[$name]) && ! $isAnnexed,
            $wish->stopsIt,
            $wish->starts || $wish->way === MachineWay::StandUp,
            $wish->part && $wish->way !== MachineWay::StandUp,
            $wish->copies,
            limit: $wish->limit,
            until: $wish->until,
            follow: $wish->way === MachineWay::Whole && ! $wish->starts ? $wish->follow : null,
            annex: $isAnnexed,
            background: $wish->background && $wish->way === MachineWay::StandUp && ! $isAnnexed,
            joins: $isAnnexed ? $wish->joins : null,
            shutsDown: $wish->shutsDown,
            before: $wish->before,
            after: $wish->after,
        );
    }

    private static function changed(MachineSettings $settings, PlacementWish $wish): MachineSettings
    {
        $cards =
            $wish->cards === PlacementWish::NONE
                ? []
                : array_map(
                    fn (CardSettings $card): CardSettings => $card->with(
                        mac: $wish->newMac ? CardSettings::newMac("{$wish->on} {$settings->name} {$card->mac}") : null,
                        network: $wish->network === '' ? $wish->wired[$card->mac] ?? null : $wish->network,
                        isConnected: $wish->cards === PlacementWish::UNPLUGGED ? false : null,
                    ),
                    $settings->cards,
                );
        $bus = $wish->bus;
        $disks =
            $bus === null
                ? $settings->disks
                : array_map(fn (DiskSettings $disk): DiskSettings => new DiskSettings($disk->name, $disk->size, $bus), $settings->disks);

        return $settings->with(
            cards: $cards,
            disks: $disks,
            memory: $wish->memory ?? $settings->memory,
            cores: $wish->cores ?? $settings->cores,
            firmware: $wish->firmware ?? $settings->firmware,
            isSecureBoot: $settings->isSecureBoot && $wish->firmware === null,
        );
    }

    /** The machine that stands there under the name of the order. */
    public function present(): ?MachineSeen
    {
        return $this->machines[$this->order->machine] ?? null;
    }

    /** @return array<string, mixed>|null what the order was seen with: with another it is another order */
    public function standsThere(): ?array
    {
        $present = $this->present();

        return $present === null ? null : ['settings' => $present->settings->toArray(), 'runs' => $present->isRunning()];
    }

    /** @return list<string> why a new machine may not start there, in sentences */
    public function cautions(): array
    {
        $settings = $this->order->settings;
        $first = $settings->boot[0] ?? ($settings->diskNames()[0] ?? null);
        if (! $this->order->way->isNew() || $first === null) {
            return [];
        }

        $set = $this->points->model($this->point);

        return WouldStart::cautions(
            new MachineTree($this->points, $this->point, $this->order->copies),
            $settings,
            RecordedSettings::said($set),
            $first,
            ($this->planned->disks[$first] ?? null)?->disk(),
            KernelDrivers::starting($set, $first),
        );
    }

    /** @return list<string> what stands in the way; none if it can begin */
    public function blockers(): array
    {
        try {
            return [
                ...$this->planned->blockers($this->order->part),
                ...$this->unfitPresent(),
                ...$this->order->way->isNew() ? $this->unfitNew() : [],
                ...$this->order->way === MachineWay::StandUp ? $this->unfitToStand() : [],
                ...$this->unfitRoom(),
            ];
        } catch (UnableToRead|UnableToRestore|UnfitSettings $unable) {
            return [ucfirst(rtrim($unable->getMessage(), '.')).'.'];
        }
    }

    /** @return list<string> of what stands there */
    private function unfitPresent(): array
    {
        [$order, $present] = [$this->order, $this->present()];
        $name = "{$order->machine} at {$order->on}";
        $blockers = $this->wish->wired === null && $order->starts && ! $order->annex ? $this->besideSubstitute() : [];
        if ($order->way->isThere() && $present === null) {
            return ["There is no machine $name: bring it back whole."];
        }
        if ($order->isAside && ! $this->wish->setsAside) {
            $blockers[] = "There is a machine $name already. It can be set aside under another name, or this one be given another.";
        }
        if ($present?->isRunning() && ! $order->stopsIt && ! $order->annex) {
            $blockers[] = "$name runs. It must be off: shut it down, or have this order do so.";
        }
        foreach ($order->way->isNew() ? [] : $order->disks as $disk) {
            $size = $order->settings->disk($disk)?->size;
            $there = $present?->settings->disk($disk)?->size;
            if ($there !== $size) {
                $blockers[] =
                    $there === null
                        ? "$name has no disk $disk."
                        : "The disk $disk of $name has ".
                            Words::size($there).
                            ' now, and had '.
                            Words::size((int) $size).
                            ' at the point: bring the machine back whole.';
            }
        }

        return $blockers;
    }

    /** @return list<string> of what stands in for the machine elsewhere, and must not run beside it */
    private function besideSubstitute(): array
    {
        $substitute = Substitute::for($this->order->host(), $this->order->machine);

        return $substitute === null ? [] : [$substitute->whyNotBeside()];
    }

    /** @return list<string> of what a new machine would meet there */
    private function unfitNew(): array
    {
        $blockers = [];
        foreach (array_unique($this->order->storages) as $storage) {
            $this->room->storage($storage) !== null || ($blockers[] = "{$this->order->on} has no storage $storage.");
        }
        foreach ($this->order->settings->cards as $card) {
            if (! in_array($card->network, $this->room->networks, true)) {
                $blockers[] = "{$this->order->on} has no network {$card->network}; it has ".implode(', ', $this->room->networks).'.';
            }
            $clash = $this->order->annex ? null : $this->withMac($card->mac);
            if ($clash !== null) {
                $blockers[] = "The machine $clash has the address {$card->mac} too: have new ones made, or leave the cards out.";
            }
        }

        return $blockers;
    }

    /** @return list<string> why a machine cannot stand on the sets of the point */
    private function unfitToStand(): array
    {
        $blockers = [];
        foreach ($this->planned->onlyOnTape() as $set) {
            $blockers[] = "$set lies on cartridges only, and no machine runs off those: have its sets brought near first.";
        }
        if ($this->order->until !== null && $this->order->until <= time()) {
            $blockers[] = 'The time until which it stands has passed.';
        }
        if ($this->order->joins !== null) {
            array_push($blockers, ...$this->unfitToJoin($this->order->joins));
        }

        return $blockers;
    }

    /** @return list<string> why it cannot be in the annex of another */
    private function unfitToJoin(int $run): array
    {
        $annex = Annex::query()->where('run_id', $run)->whereNull('ended')->with('hypervisor')->first();
        if ($annex === null || $annex->hypervisor->name !== $this->order->on) {
            return ["Nothing that run $run stood up is in an annex at {$this->order->on} now."];
        }
        $macs = array_column($this->order->settings->cards, 'mac');
        $taken = array_intersect($macs, array_merge(...array_values($annex->addresses())));

        return array_values(array_map(
            fn (string $mac): string => "A machine in that annex has the address $mac too: have new ones made.",
            $taken,
        ));
    }

    private function withMac(string $mac): ?string
    {
        foreach ($this->machines as $name => $machine) {
            foreach ($name === $this->order->machine ? [] : $machine->settings->cards as $card) {
                if ($card->mac === $mac) {
                    return $name;
                }
            }
        }

        return null;
    }

    /** @return list<string> of room: for its disks beside all that is there, and to run */
    private function unfitRoom(): array
    {
        $blockers = [];
        foreach ($this->needs() as $storage => $bytes) {
            $free = $this->room->storage($storage)->free ?? 0;
            if ($free < $bytes) {
                $blockers[] =
                    "The storage $storage of {$this->order->on} has ".
                    Words::size($free).
                    ' free, with all that is there now; '.
                    Words::size($bytes).
                    ' are needed.';
            }
        }
        if ($this->order->starts) {
            $present = $this->present();
            $ends = $present !== null && $present->isRunning() && $this->order->stopsIt && ! $this->order->annex;
            $memory = $this->room->memoryFree + ($ends ? $present->settings->memory : 0);
            $needed = $this->order->way->isNew() ? $this->order->settings->memory : $present->settings->memory ?? 0;
            if ($memory < $needed) {
                $blockers[] = "It needs $needed MiB of memory to run; $memory are free at {$this->order->on}.";
            }
            if ($this->room->slotsFree + ($ends ? 1 : 0) < 1) {
                $blockers[] = "{$this->order->on} runs {$this->room->slots} machines, and no more can.";
            }
        }

        return $blockers;
    }

    /**
     * @return array<string, int> storage => bytes that are written to it at most
     *
     * @throws UnableToRead
     */
    public function needs(): array
    {
        $needs = [];
        foreach ($this->order->storages as $disk => $storage) {
            $needs[$storage] = ($needs[$storage] ?? 0) + ($this->planned->bytes()[$disk] ?? 0) + self::BESIDE;
        }

        return $needs;
    }

    /** The order in one sentence, with moments in a zone. */
    public function sentence(string $zone): string
    {
        return self::words($this->points, $this->point, $this->order, $zone);
    }

    private static function words(Points $points, SetOutline $point, PlacementOrder $order, string $zone): string
    {
        $at = Words::moment($point->capturedAt(), $zone);
        $disks = (count($order->disks) === 1 ? 'the disk ' : 'the disks ').implode(', ', $order->disks);
        $of = $points->workload->name;
        $there = "{$order->machine} at {$order->on}";
        $first = match (true) {
            ! $order->stopsIt || $order->annex => '',
            $order->shutsDown => 'Shut it down if it runs; then ',
            default => 'End it if it runs; then ',
        };
        $words = match ($order->way) {
            MachineWay::Whole => "bring $of back as of $at as $there, ".
                ($order->isAside ? 'with the one that stands there set aside' : 'new'),
            MachineWay::StandUp => "stand $of up as of $at at {$order->on}, off its sets, ".
                ($order->annex ? "{$order->inAnnex()}, " : '').
                "to be {$order->machine} once it is ".
                ($order->annex ? 'released and settled' : 'settled').
                ($order->isAside ? ', with the one that stands there set aside' : ''),
            MachineWay::Disks => "give $there $disks as of $at, with those it has set aside",
            MachineWay::Rollback => "write back into $there what is not as it was at $at of $disks, with what it has there set aside",
            MachineWay::Configuration => "configure $there as it was at $at",
        };
        $checked = match ($order->way) {
            MachineWay::Configuration => '',
            MachineWay::StandUp => ', with every block checked as it is read',
            default => ', and check every block',
        };
        $end = $order->until === null ? null : CarbonImmutable::createFromTimestampUTC($order->until);
        $until = $end === null ? '' : '; to be decided about by '.Words::moment($end, $zone);
        $slowly = $order->limit === null ? '' : ", no faster than {$order->limit} MB/s";

        $run = fn (array $command): string => '"'.mb_scrub(implode(' ', $command)).'"';

        return ucfirst(
            ($order->before === [] ? '' : "run {$run($order->before)}; then ").
                $first.
                $words.
                $checked.
                $slowly.
                $until.
                ($order->follow === null ? '' : "; then have it follow the newest point, every {$order->follow} min").
                ($order->part ? '; what cannot be had is left out' : '').
                ($order->starts ? '; then start it' : '').
                ($order->background ? ', and bring it to its own storage while it runs' : '').
                ($order->after === [] ? '.' : "; then run {$run($order->after)}."),
        );
    }
}
