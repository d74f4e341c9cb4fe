<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Blank;

use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Metal\MetalOrder;
use App\Kinds\Machines\Order\CannotBring;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\TargetMachine;

/** A machine that is to come onto a blank one at a hypervisor, as it is confirmed, kept with the run, and carried out. */
final readonly class BlankOrder
{
    public const WAY = 'blank';

    /**
     * @param  string  $on  name of the hypervisor
     * @param  MachineSettings  $settings  of the machine as it will be; its name is that which it has in the end
     * @param  array<string, string>  $storages  disk => storage
     * @param  LayoutRecord  $layout  how the disks were laid out
     * @param  bool  $isDrill  whether it is started in a network apart, and goes again once it was asked who it is
     * @param  bool  $starts  whether it is started once it is brought
     * @param  Answer|null  $answer  by what it is told from another
     * @param  int|null  $follow  minutes between two looks for a newer point, for which its medium waits; null if it does not
     * @param  int|null  $enrolment  of one that waited: it is switched over
     * @param  int|null  $maker  the run that made that one
     */
    public function __construct(
        public string $on,
        public MachineSettings $settings,
        public array $storages,
        public LayoutRecord $layout,
        public LayoutWish $wish,
        public bool $isDrill = false,
        public bool $starts = false,
        public ?Answer $answer = null,
        public CopyRule $copies = new CopyRule,
        public bool $renewsId = false,
        public string $sentence = '',
        public ?int $follow = null,
        public ?int $enrolment = null,
        public ?int $maker = null,
    ) {
    }

    /** @throws CannotBring if it is not known any more */
    public function host(): HypervisorHost
    {
        return HypervisorHost::named($this->on);
    }

    public function isStarted(): bool
    {
        return $this->follow === null && ($this->isDrill || $this->starts);
    }

    /** What the medium is to do, once it tells on which machine it is. */
    public function onto(int $enrolment, TargetMachine $machine): MetalOrder
    {
        return new MetalOrder(
            $enrolment,
            $this->layout,
            $machine,
            $this->wish,
            copies: $this->copies,
            sentence: $this->sentence,
            renewsId: $this->renewsId,
            follow: $this->follow,
        );
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
            'way' => self::WAY,
            'on' => $this->on,
            'machine' => $this->settings->name,
            'settings' => $this->settings->toArray(),
            'storages' => $this->storages,
            'layout' => $this->layout->toArray(),
            'without' => $this->wish->without,
            'sizes' => $this->wish->sizes,
            'drill' => $this->isDrill,
            'starts' => $this->starts,
            'asked' => $this->answer?->asked,
            'answers' => $this->answer->files ?? [],
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'renews_id' => $this->renewsId,
            'sentence' => $this->sentence,
            'follow' => $this->follow,
            'enrolment' => $this->enrolment,
            'maker' => $this->maker,
        ];
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        $number = fn (string $key): ?int => isset($kept[$key]) ? (int) $kept[$key] : null;
        $texts = fn (string $key): array => array_map(strval(...), (array) ($kept[$key] ?? []));

        return new self(
            (string) $kept['on'],
            MachineSettings::fromArray((array) $kept['settings']),
            $texts('storages'),
            LayoutRecord::ofJson((string) json_encode($kept['layout'])),
            new LayoutWish([], array_values($texts('without')), array_map(intval(...), (array) $kept['sizes'])),
            (bool) $kept['drill'],
            (bool) $kept['starts'],
            isset($kept['asked']) ? new Answer((string) $kept['asked'], array_values($texts('answers'))) : null,
            new CopyRule($kept['use'] ?? [], $kept['avoid'] ?? []),
            (bool) $kept['renews_id'],
            (string) $kept['sentence'],
            $number('follow'),
            $number('enrolment'),
            $number('maker'),
        );
    }
}
