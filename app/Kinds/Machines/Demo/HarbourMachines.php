<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Demo;

use App\Instance;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\SeenHost;
use App\Models\Workload;
use Closure;
use DateTimeImmutable;
use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\StandIns\GuestSystem;
use Kaiseki\StandIns\Hypervisor\QemuCards;
use Kaiseki\StandIns\SorrelSoundMachine;

/** The hypervisors of the demo, and what stands there: a machine that an update broke, one of which sets are made, one of which none is. */
final readonly class HarbourMachines
{
    private const HOSTS = [
        '1' => ['boathouse-vm-1', 'boathouse'],
        '2' => ['boathouse-vm-2', 'boathouse'],
        '3' => ['pier-nine-vm', 'pier-nine'],
    ];

    /** Days for which the machine was kept that broke. */
    private const DAYS = 12;

    private const DAYS_OF_BURNED = 5;

    private const DISKS = ['system', 'data'];

    /** Bytes of a disk of which no sets are made: what is on it is made anew. */
    private const CACHE = 8 << 20;

    private const MEMORY = 192;

    /** The page by which each tells who it is, and what of its disk stands in it. */
    private const ASKED = '/cgi-bin/state';

    private const ANSWERS = [
        '--answers=/system.2/etc/hostname',
        '--answers=/system.2/etc/machine-id',
        '--answers=/system.2/var/lib/counter',
    ];

    /** @param  Closure(string...): array<mixed>  $kaiseki */
    public function __construct(private GuestSystem $guest, private Closure $kaiseki)
    {
    }

    public function make(DateTimeImmutable $today): void
    {
        foreach (self::HOSTS as $folder => [$name, $site]) {
            $folder = '--folder='.Instance::path("vm/$folder");
            ($this->kaiseki)('hypervisor', 'add', $name, $folder, "--site=$site", '--line-network=rescue', '--line='.QemuCards::LINE);
        }
        HypervisorHost::query()
            ->where('name', 'boathouse-vm-1')
            ->firstOrFail()
            ->holds(
                Workload::query()->where('name', BerthPlanner::NAME)->firstOrFail(),
                BerthPlanner::NAME,
                new Answer(self::ASKED, str_replace('--answers=', '', self::ANSWERS)),
            );
        $images = Instance::path('stores/tide-board-images');
        $tideBoard = $this->machine('tide-board', $images, 20264);
        $tideBoard->live($today, self::DAYS);
        $tideBoard->breakBy($today->setTime(6, 5));
        $this->deliver($tideBoard, 'tide-board', 'boathouse-vm-1', '52:54:00:5f:01:02');
        ($this->kaiseki)('adopt', $images, '--as=tide-board', '--kind=machine', '--site=boathouse');
        ($this->kaiseki)(
            'machine',
            'known',
            'tide-board',
            '--on=boathouse-vm-1',
            '--as=tide-board',
            '--asked='.self::ASKED,
            ...self::ANSWERS,
        );
        foreach (['crew-roster' => ['boathouse-vm-2', 20265], 'float-count' => ['pier-nine-vm', 20266]] as $name => [$on, $seed]) {
            $machine = $this->machine($name, Instance::folder("tmp/$name-images"), $seed);
            $machine->begin($today->modify('-1 day'));
            $cache = $name === 'crew-roster' ? [new DiskSettings('cache', self::CACHE)] : [];
            $this->deliver($machine, $name, $on, '52:54:00:5f:01:'.substr((string) $seed, -2), $cache);
        }
        ($this->kaiseki)('protect', 'crew-roster', '--machine=boathouse-vm-2:crew-roster', '--exclude-disk=cache', '--level=full');
        ($this->kaiseki)('machine', 'known', 'crew-roster', '--as=crew-roster', '--asked='.self::ASKED, ...self::ANSWERS);
        $this->burn($today);
        $this->name();
        Workload::query()
            ->whereIn('name', ['tide-board', 'crew-roster', 'slip-watch'])
            ->update(['group' => 'piers']);
    }

    /** The names by which they are reached; the machine that burned is reached nowhere now. */
    private function name(): void
    {
        $address = '127.0.0.1:'.trim((string) file_get_contents(Instance::path('names.port')));
        $key = '--key='.Instance::path('vm/names/update.key');
        ($this->kaiseki)('name-server', 'add', 'lighthouse', "--address=$address", '--zone=sorrelsound.example', $key);
        foreach (['slip-watch', BerthPlanner::NAME] as $machine) {
            ($this->kaiseki)('machine-name', 'add', "$machine.sorrelsound.example", "--of=$machine");
        }
    }

    /** A machine at a hypervisor that burned down in the night: its images lie elsewhere, and nobody answers for it any more. */
    private function burn(DateTimeImmutable $today): void
    {
        $images = Instance::path('stores/slip-watch-images');
        $machine = $this->machine('slip-watch', $images, 20267);
        $machine->live($today, self::DAYS_OF_BURNED);
        $disks = array_map(fn (string $disk): DiskSettings => new DiskSettings($disk, (int) filesize($machine->disk($disk))), self::DISKS);
        $settings = self::settings('slip-watch', '52:54:00:5f:01:67', $disks);
        $machine->delete();
        ($this->kaiseki)('adopt', $images, '--as=slip-watch', '--kind=machine', '--site=boathouse');
        $since = $today->setTime(0, 40)->getTimestamp();
        $seen = new MachineSeen($settings, array_fill_keys(self::DISKS, 'fast'), array_fill_keys(self::DISKS, 0), $since);
        $host = HypervisorHost::query()->create([
            'name' => 'slipway-vm',
            'site' => 'boathouse',
            'folder' => Instance::path('vm/slipway'),
            'silent' => 'slipway-vm does not answer',
            'seen' => (new SeenHost(new HostRoom(512, 320, 1, 0, [], ['harbour']), ['slip-watch' => $seen]))->toArray(),
            'seen_at' => $today->setTime(2, 58),
            'silent_since' => $today->setTime(2, 59),
        ]);
        $answer = new Answer(self::ASKED, str_replace('--answers=', '', self::ANSWERS));
        $host->holds(Workload::query()->where('name', 'slip-watch')->firstOrFail(), 'slip-watch', $answer);
    }

    private function machine(string $name, string $images, int $seed): SorrelSoundMachine
    {
        return new SorrelSoundMachine(Instance::folder('tmp')."/$name", $images, $name, $this->guest, $seed);
    }

    /** @param  list<DiskSettings>  $disks */
    private static function settings(string $name, string $mac, array $disks): MachineSettings
    {
        return new MachineSettings($name, $disks, [new CardSettings('harbour', $mac)], self::MEMORY, boot: ['system'], tags: ['piers']);
    }

    /**
     * Its disks become those of a machine at a hypervisor.
     *
     * @param  list<DiskSettings>  $empty  more that it has there
     */
    private function deliver(SorrelSoundMachine $machine, string $name, string $on, string $mac, array $empty = []): void
    {
        $hypervisor = HypervisorHost::query()->where('name', $on)->firstOrFail()->open();
        $disks = array_map(fn (string $disk): DiskSettings => new DiskSettings($disk, (int) filesize($machine->disk($disk))), self::DISKS);
        $settings = self::settings($name, $mac, [...$disks, ...$empty]);
        $hypervisor->create($settings, array_fill_keys($settings->diskNames(), 'fast'));
        foreach ($disks as $disk) {
            $from = fopen($machine->disk($disk->name), 'rb');
            NbdDisk::with($hypervisor, $name, $disk->name, true, function (NbdDisk $to) use ($from): void {
                for ($at = 0; $from !== false && ! feof($from); $at += strlen($bytes)) {
                    $bytes = (string) fread($from, 1 << 16);
                    trim($bytes, "\0") === '' || $to->write($at, $bytes);
                }
            });
        }
        $machine->delete();
    }
}
