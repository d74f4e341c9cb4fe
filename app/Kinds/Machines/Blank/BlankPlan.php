<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Blank;

use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\SeenHost;
use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Metal\KeptLayout;
use App\Kinds\Machines\Metal\MetalSource;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\RecordedSettings;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Hypervisor\Bus;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\Firmware;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\UnableToRead;

/** What an order onto a blank machine means at its point, and what stands in its way. */
final class BlankPlan
{
    /** MiB that a medium needs to work in. */
    public const LEAST_MEMORY = 320;

    /** Bytes of a storage that must be free besides: for the medium, and what file systems add. */
    private const BESIDE = 160 << 20;

    /** Of 100: what tables of file systems and journals take beside what is in use. */
    private const OVER = 10;

    private function __construct(
        public readonly Points $points,
        public readonly SetOutline $point,
        private readonly HypervisorHost $host,
        private readonly SeenHost $seen,
        public readonly BlankOrder $order,
        public readonly MetalSource $source,
        public readonly LayoutPlan $layout,
    ) {
    }

    /** @throws CannotBring|\Kaiseki\Core\Hypervisor\UnfitSettings if it cannot be made at all */
    public static function settle(Points $points, SetOutline $point, BlankWish $wish, HypervisorHost $host, SeenHost $seen): self
    {
        $layout = KeptLayout::read($points, $point, $wish->copies);
        $settings = self::settings($points, $point, $wish, $host, $seen, $layout);
        $storage = $wish->storage !== '' ? $wish->storage : $seen->room->roomiest()->name ?? '';
        $order = new BlankOrder(
            $host->name,
            $settings,
            array_fill_keys($settings->diskNames(), $storage),
            $layout,
            $wish->layout,
            $wish->isDrill,
            $wish->starts,
            $wish->answer ?? Answer::of($points->workload),
            $wish->copies,
            $wish->renewsId,
            follow: $wish->follow,
        );
        $source = MetalSources::of($points, $point, $wish->copies);
        $source->only(self::brought($layout, $wish->layout->without));
        $planned = LayoutProposal::of($layout, self::asMade($order), $wish->layout);

        return new self($points, $point, $host, $seen, $order, $source, $planned);
    }

    private static function settings(
        Points $points,
        SetOutline $point,
        BlankWish $wish,
        HypervisorHost $host,
        SeenHost $seen,
        LayoutRecord $layout,
    ): MachineSettings {
        $workload = $points->workload;
        $was = $workload->kind === Machines::NAME ? RecordedSettings::said($points->model($point)) : null;
        $name = $wish->machine !== '' ? $wish->machine : $workload->name;
        $disks = [];
        foreach (self::brought($layout, $wish->layout->without) as $number => $disk) {
            $isName = preg_match('/^[A-Za-z0-9][A-Za-z0-9_-]{0,39}$/D', $disk) === 1 && $disk !== BlankMachine::MEDIUM;
            $bytes = $layout->disk($disk)->bytes ?? 0;
            $disks[] = new DiskSettings($isName ? $disk : 'disk-'.($number + 1), intdiv($bytes + 511, 512) * 512, $wish->bus);
        }
        $networks = array_values(array_diff($seen->room->networks, [$host->line_network]));
        $network = $wish->network !== '' ? $wish->network : ($was?->networks()[0] ?? null);
        $network = in_array($network, $seen->room->networks, true) || $wish->network !== '' ? $network : $networks[0] ?? null;

        return new MachineSettings(
            $name,
            $disks,
            $network === null ? [] : [new CardSettings($network, CardSettings::newMac("$name at {$host->name}"))],
            $wish->memory ?? max(self::LEAST_MEMORY, $was->memory ?? 0),
            $wish->cores ?? $was->cores ?? 1,
            $wish->firmware ?? $was->firmware ?? ($layout->firmware === 'uefi' ? Firmware::Uefi : Firmware::Bios),
        );
    }

    /**
     * @param  list<string>  $without
     * @return list<string> in their order
     */
    private static function brought(LayoutRecord $layout, array $without): array
    {
        $names = array_map(fn (RecordedDisk $disk): string => $disk->name, $layout->disks);

        return array_values(array_diff($names, $without));
    }

    /** The machine as its medium will find it, by what it is configured with. */
    private static function asMade(BlankOrder $order): TargetMachine
    {
        $disks = [];
        foreach ($order->settings->disks as $number => $disk) {
            $name = match ($disk->bus) {
                Bus::Virtio => 'vd'.chr(97 + $number % 26),
                Bus::Scsi, Bus::Ide => 'sd'.chr(97 + $number % 26),
                Bus::Nvme => "nvme{$number}n1",
            };
            $disks[] = new TargetDisk($name, $disk->size, 512, $disk->name, '', false, [], '');
        }

        return new TargetMachine($order->settings->firmware->value, '', '', $order->settings->memory << 10, $disks, [], []);
    }

    /** As it is kept with its run. */
    public function ordered(): BlankOrder
    {
        return $this->order->with(sentence: $this->sentence('UTC'));
    }

    /** What was shown: with another it is another order. */
    public function fingerprint(): string
    {
        return hash('sha256', (string) json_encode($this->ordered()->toArray()));
    }

    /** @return list<string> what stands in the way; none if it can begin */
    public function blockers(): array
    {
        try {
            return [
                ...$this->host->line === null ? [
                    "From where machines at {$this->host->name} reach this desk is not known: hypervisor add {$this->host->name} ".
                    '--line-network=NETWORK --line=HOST:PORT says it.',
                ] : [],
                ...$this->layout->misfits,
                ...$this->source->blockers(),
                ...$this->unfitPlace(),
                ...$this->unfitRoom(),
            ];
        } catch (UnableToRead $unable) {
            return [ucfirst(rtrim($unable->getMessage(), '.')).'.'];
        }
    }

    /** @return list<string> */
    private function unfitPlace(): array
    {
        [$settings, $room] = [$this->order->settings, $this->seen->room];
        $blockers = [];
        if (! $this->order->isDrill && isset($this->seen->machines[$settings->name])) {
            $blockers[] = "There is a machine {$settings->name} at {$this->order->on} already: give this one another name.";
        }
        foreach (array_diff([...$settings->networks(), ...array_filter([$this->host->line_network])], $room->networks) as $unknown) {
            $blockers[] = "{$this->order->on} has no network $unknown; it has ".implode(', ', $room->networks).'.';
        }
        if ($this->order->isDrill && $this->order->follow !== null) {
            $blockers[] = 'A drill is removed again: it is not kept in step.';
        }
        if ($settings->memory < self::LEAST_MEMORY) {
            $blockers[] = 'A medium needs '.self::LEAST_MEMORY.' MiB of memory to work in.';
        }
        if ($room->memoryFree < $settings->memory) {
            $blockers[] = "It needs {$settings->memory} MiB of memory; {$room->memoryFree} are free at {$this->order->on}.";
        }
        $room->slotsFree > 0 || $blockers[] = "{$this->order->on} runs {$room->slots} machines, and no more can.";

        return $blockers;
    }

    /** @return list<string> */
    private function unfitRoom(): array
    {
        $storage = array_values($this->order->storages)[0] ?? '';
        $free = $this->seen->room->storage($storage)?->free;

        return match (true) {
            $free === null => ["{$this->order->on} has no storage $storage."],
            $free < $this->needs() => [
                "The storage $storage of {$this->order->on} has ".Words::size($free).' free; '.Words::size($this->needs()).' are needed.',
            ],
            default => [],
        };
    }

    /** Bytes of its storage that are written at most. */
    public function needs(): int
    {
        return intdiv($this->layout->used() * (100 + self::OVER), 100) + self::BESIDE;
    }

    /** @return list<string> what may not go well, in sentences */
    public function cautions(): array
    {
        $cautions = [...$this->layout->cautions, ...$this->source->cautions()];
        $settings = $this->order->settings;
        $isUefi = $settings->firmware === Firmware::Uefi;
        array_push($cautions, ...$isUefi ? KeptLayout::cautions($this->points->model($this->point), $this->layout->disks) : []);
        foreach ($this->layout->disks as $number => $disk) {
            $kernel = $disk->was->mayStart() ? $this->source->kernel($disk->was->name) : null;
            $missing = $kernel?->missing($settings->disks[$number]->bus, $settings->firmware) ?? [];
            if ($missing !== []) {
                $cautions[] = "The kernel {$kernel->version} of {$disk->was->name} has no ".implode(', ', $missing).
                    ', built in or in its initramfs: it would not find its disks there. Connect them otherwise.';
            }
        }
        if ($this->order->isStarted() && $this->order->answer === null) {
            $cautions[] = 'By what it is told from another is not known: that it runs is seen, and not that it is itself.';
        }

        return $cautions;
    }

    public function sentence(string $zone): string
    {
        $order = $this->order;
        $of = "{$this->points->workload->name} as of ".Words::moment($this->point->capturedAt(), $zone);
        $onto = "a blank machine at {$order->on}, from a medium with a code of its own";
        $end = $order->starts ? ', started.' : ', off.';

        return match (true) {
            $order->isDrill => "Drill: bring $of onto $onto, read all of it again, start it in a network apart, ask it who it is, ".
                'and remove it again.',
            $order->follow !== null => "Bring $of onto $onto, read all of it again, and keep it in step with newer points, every ".
                "{$order->follow} min, until it is switched over and is {$order->settings->name}$end",
            default => "Bring $of onto $onto, read all of it again, and leave it there as {$order->settings->name}$end",
        };
    }
}
