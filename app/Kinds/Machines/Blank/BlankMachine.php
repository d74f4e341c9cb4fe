<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Blank;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\NewMachine;
use App\Models\Run;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\UnableToRead;

/** The machine of a run at a hypervisor: blank, but for a disk with the medium that it starts from, until that is taken out. */
final readonly class BlankMachine
{
    /** What the disk with the medium is called. */
    public const MEDIUM = 'medium';

    private const AT_ONCE = 1 << 20;

    /** Its name while it is made, and no other's. */
    public string $name;

    /** @param  Run  $maker  that makes it, or made it */
    public function __construct(private Hypervisor $hypervisor, Run $maker, private BlankOrder $order)
    {
        $this->name = NewMachine::nameOfMade($maker, $order->settings->name);
    }

    /**
     * Makes it with a medium in it, off; what an attempt before left of it goes.
     *
     * @param  string  $image  of a stick
     * @param  string  $network  from which it reaches this desk
     */
    public function make(string $image, string $network): string
    {
        $this->remove();
        $settings = $this->order->settings;
        $storage = array_values($this->order->storages)[0];
        // The same card as later, on another network: what is brought is set up for its address.
        $card = $settings->cards[0] ?? new CardSettings($network, CardSettings::newMac("{$this->name} at {$this->order->on}"));
        $medium = new DiskSettings(self::MEDIUM, intdiv((int) filesize($image) + 511, 512) * 512, $settings->disks[0]->bus);
        $this->hypervisor->create($settings->with(
            name: $this->name,
            disks: [...$settings->disks, $medium],
            boot: [self::MEDIUM],
            cards: [$card->with(network: $network)],
        ), $this->order->storages + [self::MEDIUM => $storage]);
        NbdDisk::with($this->hypervisor, $this->name, self::MEDIUM, true, fn (NbdDisk $to) => self::write($image, $to));

        return "{$this->name} with ".count($settings->disks)." blank disks on $storage, and the medium as one more";
    }

    private static function write(string $image, NbdDisk $to): void
    {
        $from = fopen($image, 'rb') ?: throw UnableToRead::open($image, 'The medium');
        for ($at = 0; ($bytes = (string) fread($from, self::AT_ONCE)) !== ''; $at += strlen($bytes)) {
            trim($bytes, "\0") === '' || $to->write($at, $bytes);
        }
        fclose($from);
    }

    public function start(): void
    {
        $this->hypervisor->start($this->name);
    }

    /** Why it will not make itself known any more; null while it may. */
    public function trouble(): ?string
    {
        $said = $this->hypervisor->serial($this->name);
        $last = mb_strimwidth(trim(mb_scrub(substr($said, -300))), 0, 300, '...');

        return match (true) {
            ! $this->isRunning() => "it is off again; it said last: $last",
            str_contains($said, 'No network card that this medium has a driver for') => "its medium has no driver for its card: $last",
            default => null,
        };
    }

    public function isRunning(): bool
    {
        return $this->hypervisor->machine($this->name)?->isRunning() ?? false;
    }

    /**
     * The medium goes, and its card is where it will be from now on.
     *
     * @param  string|null  $annex  the network apart that all its cards are on; null for those of its order
     * @param  string  $mark  under which it is known from then on what changes
     */
    public function takeOut(?string $annex, string $mark): MachineSettings
    {
        $this->isRunning() && $this->hypervisor->stop($this->name, true);
        $this->hypervisor->removeDisk($this->name, self::MEDIUM);
        $settings = $this->order->settings->with(name: $this->name);
        $settings = $annex === null ? $settings : $settings->with(cards: array_map(
            fn (CardSettings $card): CardSettings => $card->with(network: $annex),
            $settings->cards,
        ));
        $this->hypervisor->configure($this->name, $settings);
        foreach ($settings->diskNames() as $disk) {
            $this->hypervisor->mark($this->name, $disk, $mark);
        }

        return $settings;
    }

    /** @throws CannotBring if another has its name meanwhile */
    public function giveName(): void
    {
        $name = $this->order->settings->name;
        $this->hypervisor->machine($name) === null || throw CannotBring::because("There is a machine $name now, and none was before.");
        $this->hypervisor->rename($this->name, $name);
    }

    /** With all that is on it; one that is not there is none already. */
    public function remove(): void
    {
        $machine = $this->hypervisor->machine($this->name);
        if ($machine !== null) {
            $machine->isRunning() && $this->hypervisor->stop($this->name, true);
            $this->hypervisor->delete($this->name);
        }
    }
}
