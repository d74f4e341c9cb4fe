<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Names\LedName;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Touched;

/** A machine that stands in is to go home: kept with the run that does it. */
final readonly class HomeOrder
{
    public const WAY = 'home';

    /**
     * @param  int  $substitute  that stands in
     * @param  string  $on  the hypervisor that it goes to
     * @param  string  $machine  what it is called there
     * @param  string  $from  the hypervisor that it comes from
     * @param  string  $storage  there for its disks; '' for where they were, else where there is most room
     * @param  string  $network  there for its cards; '' for those that they were on
     * @param  bool  $isAside  whether what has its name there is set aside, and not written over where it differs
     * @param  string  $address  to which the names lead then that were led away; '' for the one they led to before
     */
    public function __construct(
        public int $substitute,
        public string $on,
        public string $machine,
        public string $from,
        public string $storage = '',
        public string $network = '',
        public bool $isAside = false,
        public string $sentence = '',
        public string $address = '',
    ) {
    }

    public static function of(Substitute $substitute, HomeWish $wish): self
    {
        $on = $wish->on === '' ? $substitute->home->name : $wish->on;
        $home = "{$substitute->home_machine} at $on";
        $from = "{$substitute->machine} at {$substitute->hypervisor->name}";
        $first = $wish->setsAside ? "Set aside what stands as $home, and bring" : 'Bring';
        $names = implode(', ', array_map(fn (LedName $one): string => $one->name, $substitute->ledNames()));
        $lead = match (true) {
            $names === '' => '',
            $wish->address === '' => " $names will lead to where it led before.",
            default => " $names will lead to {$wish->address}.",
        };
        $sentence = "$first the newest set of $from there while that runs; then shut it down, make a set of what came since, write that ".
            "over there, start $home, and ask it who it is.$lead The one that stood in stays, off, until its going is accepted.";

        return new self(
            $substitute->id, $on, $substitute->home_machine, $substitute->hypervisor->name,
            $wish->storage, $wish->network, $wish->setsAside, $sentence, $wish->address,
        );
    }

    /** @throws CannotBring if it is not known any more */
    public function substitute(): Substitute
    {
        return Substitute::query()->find($this->substitute) ?? throw CannotBring::because('It is not known any more what stood in.');
    }

    /** What it writes over at home, and what is shut down where it stood in. */
    public function touches(): Touched
    {
        $substitute = Substitute::query()->find($this->substitute);
        if ($substitute === null) {
            return Touched::nothing();
        }

        return new Touched([
            ...TouchedMachine::at($this->home(), $this->machine, true)->places,
            ...TouchedMachine::at($substitute->hypervisor, $substitute->machine, true)->places,
        ]);
    }

    /** @throws CannotBring if it is not known any more */
    public function home(): HypervisorHost
    {
        return HypervisorHost::named($this->on);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['way' => self::WAY] + get_object_vars($this);
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self(
            (int) $kept['substitute'], (string) $kept['on'], (string) $kept['machine'], (string) $kept['from'], (string) $kept['storage'],
            (string) $kept['network'], (bool) $kept['isAside'], (string) $kept['sentence'], (string) ($kept['address'] ?? ''),
        );
    }
}
