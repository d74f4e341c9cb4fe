<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Blank;

use App\Kinds\Machines\Hypervisors\Answer;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Hypervisor\Bus;
use Kaiseki\Core\Hypervisor\Firmware;
use Kaiseki\Core\Metal\LayoutWish;

/** What somebody said of the blank machine that another is to come onto; what was not said is chosen. */
final readonly class BlankWish
{
    /**
     * @param  string  $machine  its name; '' for the workload's
     * @param  string  $storage  '' for where there is most room
     * @param  string  $network  that its card is on once it is brought; '' for the first that there is
     * @param  int|null  $memory  MiB
     * @param  bool  $isDrill  whether it is started in a network apart, and goes again once it was asked who it is
     * @param  bool  $starts  whether it is started once it is brought
     * @param  Answer|null  $answer  by what it is told from another; null for what is known of the workload
     * @param  LayoutWish  $layout  of which only what is left out and sizes count: its disks are made for it
     * @param  bool  $renewsId  whether it gets a machine id of its own
     * @param  int|null  $follow  minutes between two looks for a newer point, for which its medium waits; null if it does not
     */
    public function __construct(
        public string $machine = '',
        public string $storage = '',
        public string $network = '',
        public ?int $memory = null,
        public ?int $cores = null,
        public ?Firmware $firmware = null,
        public Bus $bus = Bus::Virtio,
        public bool $isDrill = false,
        public bool $starts = false,
        public ?Answer $answer = null,
        public LayoutWish $layout = new LayoutWish,
        public CopyRule $copies = new CopyRule,
        public bool $renewsId = false,
        public ?int $follow = null,
    ) {
    }
}
