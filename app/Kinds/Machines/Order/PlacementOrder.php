<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Hypervisor\MachineSettings;

/** A machine that is to be brought back at a hypervisor: as it is confirmed, kept with the run, and carried out. */
final readonly class PlacementOrder
{
    /**
     * @param  string  $on  name of the hypervisor
     * @param  string  $machine  name of the machine there, once all is done
     * @param  MachineSettings  $settings  of the machine as it will be; of a machine that is there and keeps its own, what it will have of
     *     the point: its disks
     * @param  array<string, string>  $storages  disk => storage, of the disks that are made
     * @param  list<string>  $disks  of the point, that are brought
     * @param  bool  $isAside  whether a machine of that name stands there, and is set aside
     * @param  bool  $stopsIt  whether a machine that runs there is ended first, as if its power were cut, unless $shutsDown
     * @param  bool  $shutsDown  whether it is asked to go first, and ended only if it does not
     * @param  bool  $starts  whether it is started at the end
     * @param  int|null  $limit  megabytes (10^6) a second that are written and read at most
     * @param  int|null  $until  Unix time by which somebody wants to have decided about one that is stood up
     * @param  int|null  $follow  minutes between two steps of one that follows the newest point, off
     * @param  bool  $background  whether it is settled as soon as it answers
     * @param  bool  $annex  whether it is in a network apart, and in nobody's place, until it is released
     * @param  int|null  $joins  the run in whose annex it is, beside that machine; null for one of its own
     * @param  list<string>  $before  a command that is run before anything is done; arguments, no shell's
     * @param  list<string>  $after  and one after all is done
     * @param  bool  $part  whether blocks that nobody can give back may be left: as zeros, and in a rollback as they are
     */
    public function __construct(
        public MachineWay $way,
        public string $on,
        public string $machine,
        public MachineSettings $settings,
        public array $storages,
        public array $disks,
        public bool $isAside = false,
        public bool $stopsIt = false,
        public bool $starts = false,
        public bool $part = false,
        public CopyRule $copies = new CopyRule,
        public string $sentence = '',
        public ?int $limit = null,
        public ?int $until = null,
        public ?int $follow = null,
        public bool $annex = false,
        public bool $background = false,
        public ?int $joins = null,
        public bool $shutsDown = false,
        public array $before = [],
        public array $after = [],
    ) {
    }

    /** Whether something that stands there is changed, or set aside. */
    public function replaces(): bool
    {
        return $this->way->isThere() || $this->isAside;
    }

    /** @throws CannotBring if it is not known any more */
    public function host(): HypervisorHost
    {
        return HypervisorHost::named($this->on);
    }

    /** In which annex it is: "in an annex of its own"; null if it is in none. */
    public function inAnnex(): ?string
    {
        return match (true) {
            ! $this->annex => null,
            $this->joins !== null => "in the annex of run {$this->joins}",
            default => 'in an annex of its own',
        };
    }

    /** The same with other values of some of its fields. */
    public function with(mixed ...$changes): self
    {
        return new self(...$changes + get_object_vars($this));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'way' => $this->way->value,
            'on' => $this->on,
            'machine' => $this->machine,
            'settings' => $this->settings->toArray(),
            'storages' => $this->storages,
            'disks' => $this->disks,
            'is_aside' => $this->isAside,
            'stops_it' => $this->stopsIt,
            'starts' => $this->starts,
            'part' => $this->part,
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'sentence' => $this->sentence,
            'limit' => $this->limit,
            'until' => $this->until,
            'follow' => $this->follow,
            'annex' => $this->annex,
            'background' => $this->background,
            'joins' => $this->joins,
            'shuts_down' => $this->shutsDown,
            'before' => $this->before,
            'after' => $this->after,
        ];
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self(
            MachineWay::from((string) $kept['way']),
            (string) $kept['on'],
            (string) $kept['machine'],
            MachineSettings::fromArray((array) $kept['settings']),
            array_map(strval(...), (array) $kept['storages']),
            array_map(strval(...), array_values((array) $kept['disks'])),
            (bool) $kept['is_aside'],
            (bool) $kept['stops_it'],
            (bool) $kept['starts'],
            (bool) $kept['part'],
            new CopyRule($kept['use'] ?? [], $kept['avoid'] ?? []),
            (string) ($kept['sentence'] ?? ''),
            isset($kept['limit']) ? (int) $kept['limit'] : null,
            isset($kept['until']) ? (int) $kept['until'] : null,
            isset($kept['follow']) ? (int) $kept['follow'] : null,
            (bool) ($kept['annex'] ?? false),
            (bool) ($kept['background'] ?? false),
            isset($kept['joins']) ? (int) $kept['joins'] : null,
            (bool) ($kept['shuts_down'] ?? false),
            array_map(strval(...), array_values((array) ($kept['before'] ?? []))),
            array_map(strval(...), array_values((array) ($kept['after'] ?? []))),
        );
    }
}
