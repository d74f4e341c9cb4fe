<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Hypervisor\Bus;
use Kaiseki\Core\Hypervisor\Firmware;

/** What somebody said of how a machine is to be brought back at a hypervisor; what was not said is as it was. */
final readonly class PlacementWish
{
    public const CONNECTED = 'connected';

    public const UNPLUGGED = 'unplugged';

    public const NONE = 'none';

    /** @return array<string, string> */
    public static function cardsInWords(): array
    {
        return [self::CONNECTED => 'as they were', self::UNPLUGGED => 'there, but not connected', self::NONE => 'none'];
    }

    /**
     * @param  string  $on  name of the hypervisor
     * @param  string  $machine  name of the machine there; '' for the workload's, or the machine that it is known to be
     * @param  string  $storage  '' for where it was, else where there is most room
     * @param  string  $network  '' for the ones it was on
     * @param  list<string>  $disks  none for all
     * @param  int|null  $memory  MiB
     * @param  string  $cards  CONNECTED, UNPLUGGED or NONE
     * @param  int|null  $limit  megabytes (10^6) a second that are written and read at most
     * @param  int|null  $until  Unix time by which somebody wants to have decided about one that is stood up
     * @param  int|null  $follow  minutes between two steps of one that follows the newest point, off
     * @param  bool  $background  whether one that is stood up is settled as soon as it answers
     * @param  bool  $annex  whether one that is stood up is in a network apart until it is released
     * @param  bool  $shutsDown  whether what runs there is asked to go first, and ended only if it does not
     * @param  int|null  $joins  the run in whose annex it is, beside that machine; null for one of its own
     * @param  list<string>  $before  a command that is run before anything is done
     * @param  list<string>  $after  and one after all is done
     * @param  array<string, string>|null  $wired  of one that comes home: address of a card => network that it was on there; else null
     */
    public function __construct(
        public MachineWay $way,
        public string $on,
        public string $machine = '',
        public string $storage = '',
        public string $network = '',
        public array $disks = [],
        public ?int $memory = null,
        public ?int $cores = null,
        public ?Firmware $firmware = null,
        public ?Bus $bus = null,
        public string $cards = self::CONNECTED,
        public bool $newMac = false,
        public bool $setsAside = false,
        public bool $stopsIt = false,
        public bool $starts = false,
        public bool $part = false,
        public CopyRule $copies = new CopyRule,
        public ?int $limit = null,
        public ?int $until = null,
        public ?int $follow = null,
        public bool $annex = false,
        public bool $background = false,
        public ?int $joins = null,
        public bool $shutsDown = false,
        public ?array $wired = null,
        public array $before = [],
        public array $after = [],
    ) {
    }
}
