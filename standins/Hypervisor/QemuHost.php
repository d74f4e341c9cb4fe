<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\AgentFacts;
use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\InsideOutcome;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\Moment;
use Kaiseki\Core\Hypervisor\RemoteHypervisor;
use Kaiseki\Core\Hypervisor\Storage;
use Symfony\Component\Process\Process;

/**
 * A hypervisor in small: machines are QEMU processes, their disks qcow2 files in the folders of its storages, their settings JSON files.
 * Its folder holds host.json, which says how much it has of what: {memory_mib, slots, storages: {NAME: bytes}, networks: [NAME]}.
 */
final class QemuHost implements Hypervisor
{
    public const GRANULARITY = 65_536;

    /** @var array<string, HeldMoment|array<string, list<string>>> machine => what keeps its disks; of one that is off the marks they had */
    private array $moments = [];

    /** @var array<string, Process> name of a door => the process that serves it */
    private array $doors = [];

    public function __construct(private readonly string $folder)
    {
        foreach (['machines', 'storages', 'run'] as $part) {
            is_dir("$folder/$part") || mkdir("$folder/$part", 0700, true);
        }
        $before = umask(0027); // whose group the folder is may come in
        is_dir($folder.'/'.RemoteHypervisor::DOORS) || mkdir($folder.'/'.RemoteHypervisor::DOORS, 0750);
        umask($before);
        foreach (array_keys($this->facts()['storages']) as $storage) {
            is_dir("$folder/storages/$storage") || mkdir("$folder/storages/$storage", 0700);
        }
        foreach (glob("$folder/run/*.rest") ?: [] as $left) {
            GuestAgent::releaseIfLeft(QemuProcess::ofFile($left));
        }
    }

    public function __destruct()
    {
        foreach (array_keys($this->moments) as $name) {
            try {
                $this->endMoment((string) $name, false);
            } catch (HypervisorFailure) {
                continue; // the machine has gone meanwhile
            }
        }
        foreach (array_keys($this->doors) as $door) {
            $this->end($door);
        }
    }

    /** @return array{memory_mib: int, slots: int, storages: array<string, int>, networks: list<string>} */
    private function facts(): array
    {
        $facts = json_decode((string) @file_get_contents("{$this->folder}/host.json"), true);

        return is_array($facts) ? $facts : throw HypervisorFailure::because("{$this->folder}/host.json says nothing");
    }

    public function room(): HostRoom
    {
        $facts = $this->facts();
        $running = array_filter($this->machines(), fn (MachineSeen $machine): bool => $machine->isRunning());
        $memory = array_sum(array_map(fn (MachineSeen $machine): int => $machine->settings->memory, $running));

        return new HostRoom(
            $facts['memory_mib'],
            max(0, $facts['memory_mib'] - $memory),
            $facts['slots'],
            max(0, $facts['slots'] - count($running)),
            array_map($this->storage(...), array_keys($facts['storages'])),
            $facts['networks'],
        );
    }

    private function storage(string $name): Storage
    {
        $size = $this->facts()['storages'][$name] ?? throw HypervisorFailure::because("there is no storage $name here");
        $used = 0;
        foreach (glob("{$this->folder}/storages/$name/*") ?: [] as $file) {
            $used += self::held($file);
        }

        return new Storage($name, $size, max(0, min($size - $used, (int) disk_free_space("{$this->folder}/storages/$name"))));
    }

    private static function held(string $file): int
    {
        clearstatcache(true, $file);

        return 512 * (int) (@stat($file)['blocks'] ?? 0);
    }

    public function machines(): array
    {
        $machines = [];
        foreach (glob("{$this->folder}/machines/*.json") ?: [] as $file) {
            $machine = $this->seen(basename($file, '.json'));
            if ($machine !== null) {
                $machines[$machine->settings->name] = $machine;
            }
        }

        return $machines;
    }

    public function machine(string $name): ?MachineSeen
    {
        return $this->seen($name);
    }

    private function seen(string $name): ?MachineSeen
    {
        if (! self::isName($name) || ! is_file($this->file($name))) {
            return null;
        }
        $kept = json_decode((string) file_get_contents($this->file($name)), true);
        if (! is_array($kept)) {
            return null;
        }
        $settings = MachineSettings::fromArray(['name' => $name] + $kept['settings']);
        $process = $this->process($name);
        $held = [];
        foreach ($kept['storages'] as $disk => $storage) {
            $held[$disk] = self::held($this->image($storage, $name, $disk));
        }
        $since = $process->since();
        $port = $since === null ? null : $process->port();

        return new MachineSeen($settings, $kept['storages'], $held, $since, $port === null ? null : "127.0.0.1:$port");
    }

    private static function isName(string $name): bool
    {
        return preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) === 1;
    }

    private function file(string $name): string
    {
        return "{$this->folder}/machines/$name.json";
    }

    private function image(string $storage, string $name, string $disk): string
    {
        return "{$this->folder}/storages/$storage/$name.$disk.qcow2";
    }

    private function process(string $name): QemuProcess
    {
        return QemuProcess::of("{$this->folder}/run", $name);
    }

    /** @param  array<string, string>  $storages */
    private function keep(MachineSettings $settings, array $storages): void
    {
        $file = $this->file($settings->name);
        $kept = json_encode(['settings' => $settings->toArray(), 'storages' => $storages], JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT);
        (file_put_contents("$file.new", $kept) === strlen($kept) && rename("$file.new", $file)) ||
            throw HypervisorFailure::because('the settings cannot be kept: there is no room');
    }

    private function known(string $name): MachineSeen
    {
        return $this->seen($name) ?? throw HypervisorFailure::because("there is no machine $name here");
    }

    private function off(string $name): MachineSeen
    {
        $machine = $this->known($name);

        return ! $machine->isRunning() ? $machine : throw HypervisorFailure::because("$name runs: it must be off for that");
    }

    public function create(MachineSettings $settings, array $storages): void
    {
        $this->refuseKnown($settings->name);
        foreach ($settings->disks as $disk) {
            $storage = $this->storage($storages[$disk->name] ?? '');
            $storage->free > 0 || throw HypervisorFailure::because("the storage {$storage->name} is full");
        }
        $this->refuseUnknownNetworks($settings);
        foreach ($settings->disks as $disk) {
            $image = $this->image($storages[$disk->name], $settings->name, $disk->name);
            self::run(['qemu-img', 'create', '-q', '-f', 'qcow2', '-o', 'compat=1.1,lazy_refcounts=off', $image, (string) $disk->size]);
        }
        $this->keep($settings, array_intersect_key($storages, array_flip($settings->diskNames())));
    }

    private function refuseKnown(string $name): void
    {
        $this->seen($name) === null || throw HypervisorFailure::because("there is a machine $name here already");
    }

    private function refuseUnknownNetworks(MachineSettings $settings): void
    {
        foreach ($settings->cards as $card) {
            in_array($card->network, $this->facts()['networks'], true) ||
                throw HypervisorFailure::because("there is no network {$card->network} here");
        }
    }

    public function configure(string $name, MachineSettings $settings): void
    {
        $machine = $this->off($name);
        $this->refuseUnknownNetworks($settings);
        foreach ($settings->disks as $disk) {
            $machine->settings->disk($disk->name)?->size === $disk->size ||
                throw HypervisorFailure::because("$name has no disk {$disk->name} of {$disk->size} bytes");
        }
        count($settings->disks) === count($machine->settings->disks) ||
            throw HypervisorFailure::because("$name has disks that these settings do not name");
        $this->keep($settings->with(name: $name), $machine->storages);
    }

    public function rename(string $name, string $to): void
    {
        $machine = $this->off($name);
        $settings = $machine->settings->with(name: $to);
        $this->refuseKnown($to);
        foreach ($machine->storages as $disk => $storage) {
            rename($this->image($storage, $name, $disk), $this->image($storage, $to, $disk));
        }
        @rename($this->variables($name), $this->variables($to));
        $this->keep($settings, $machine->storages);
        unlink($this->file($name));
    }

    private function variables(string $name): string
    {
        return "{$this->folder}/machines/$name.vars";
    }

    public function delete(string $name): void
    {
        $machine = $this->off($name);
        unlink($this->file($name));
        foreach ($machine->storages as $disk => $storage) {
            @unlink($this->image($storage, $name, $disk));
        }
        @unlink($this->variables($name));
    }

    public function swapDisk(string $name, string $disk, string $with): void
    {
        [$one, $other] = [$this->off($name), $this->off($with)];
        $size = $one->settings->disk($disk)?->size;
        ($size !== null && $size === $other->settings->disk($disk)?->size) ||
            throw HypervisorFailure::because("$name and $with have no disk $disk of one size");
        [$here, $there] = [$this->image($one->storages[$disk], $name, $disk), $this->image($other->storages[$disk], $with, $disk)];
        $one->storages[$disk] === $other->storages[$disk] ||
            throw HypervisorFailure::because("the disks $disk of $name and $with lie on two storages");
        rename($here, "$here.swapped");
        rename($there, $here);
        rename("$here.swapped", $there);
    }

    public function start(string $name): void
    {
        $machine = $this->known($name);
        ! $machine->isRunning() || throw HypervisorFailure::because("$name runs already");
        $room = $this->room();
        $room->slotsFree > 0 || throw HypervisorFailure::because("{$room->slots} machines run here, and no more can");
        $room->memoryFree >= $machine->settings->memory ||
            throw HypervisorFailure::because("$name needs {$machine->settings->memory} MiB of memory, and {$room->memoryFree} are free");
        $files = [];
        $most = PHP_INT_MAX;
        foreach ($machine->storages as $disk => $storage) {
            $files[$disk] = $this->image($storage, $name, $disk);
            $most = min($most, $this->mostBytes($storage, $files[$disk]));
        }
        $process = $this->process($name);
        $process->start($machine->settings, $files, $this->variables($name), $most);
        $process->unplug($machine->settings);
    }

    /** No file of a storage grows beyond what is free there: whoever writes meets a full disk. */
    private function mostBytes(string $storage, string $file): int
    {
        clearstatcache(true, $file);

        return (int) filesize($file) + $this->storage($storage)->free;
    }

    public function stop(string $name, bool $atOnce): void
    {
        $this->known($name)->isRunning() || throw HypervisorFailure::because("$name does not run");
        $atOnce ? $this->process($name)->end() : $this->process($name)->powerDown();
    }

    /** All machines off, as when its power is switched off in order. */
    public function powerOff(): void
    {
        foreach ($this->machines() as $machine) {
            $machine->isRunning() && $this->process($machine->settings->name)->end();
        }
    }

    public function openDisk(string $name, string $disk, bool $toWrite, ?string $mark = null): DiskDoor
    {
        $image = $this->imageOf($name, $disk);
        $toWrite && self::removeMarks($image, array_keys($this->allMarks($image)));
        $door = self::doorName();
        $socket = $this->folder.'/'.RemoteHypervisor::DOORS."/$door";
        $ready = "{$this->folder}/run/$door.ready";
        $limit = $this->mostBytes($this->known($name)->storages[$disk], $image);
        $process = new Process([
            'setpriv',
            '--pdeathsig',
            'TERM',
            '--',
            'env',
            '--ignore-signal=XFSZ',
            'prlimit',
            "--fsize=$limit",
            '--',
            'qemu-nbd',
            "--socket=$socket",
            "--pid-file=$ready",
            '--persistent',
            '--format=qcow2',
            '--discard=unmap',
            ...$toWrite ? [] : ['--read-only'],
            ...$mark === null ? [] : ["--bitmap=$mark"],
            $image,
        ]);
        $process->setTimeout(null);
        $this->doors[$door] = $process;
        $before = umask(0117); // its folder says who may come
        $process->start();
        umask($before);
        while (! file_exists($ready)) {
            // which is written once it listens
            $process->isRunning() || throw HypervisorFailure::because("the disk $disk of $name cannot be opened: ".self::said($process));
            usleep(10_000);
        }

        return new DiskDoor($socket);
    }

    private static function doorName(): string
    {
        return 'd'.substr(bin2hex(random_bytes(4)), 1);
    }

    private function imageOf(string $name, string $disk): string
    {
        $storage = $this->off($name)->storages[$disk] ?? throw HypervisorFailure::because("$name has no disk ".mb_scrub($disk));

        return $this->image($storage, $name, $disk);
    }

    public function closeDisk(DiskDoor $door): void
    {
        $this->end(basename($door->socket));
    }

    /** What was written through a door is flushed before it is closed. */
    private function end(string $door): void
    {
        if (isset($this->doors[$door])) {
            $this->doors[$door]->stop(60, SIGTERM);
            unset($this->doors[$door]);
            @unlink($this->folder.'/'.RemoteHypervisor::DOORS."/$door");
            @unlink("{$this->folder}/run/$door.ready");
        }
    }

    public function marks(string $name, string $disk): array
    {
        return array_keys(array_filter($this->allMarks($this->imageOf($name, $disk))));
    }

    /** @return array<string, bool> name => whether it can be believed: one that is in use was not put down in order */
    private function allMarks(string $image): array
    {
        $told = json_decode(self::run(['qemu-img', 'info', '--output=json', '-f', 'qcow2', $image]), true);
        $marks = [];
        foreach (is_array($told) ? $told['format-specific']['data']['bitmaps'] ?? [] : [] as $bitmap) {
            $marks[(string) $bitmap['name']] = ! in_array('in-use', $bitmap['flags'], true) && in_array('auto', $bitmap['flags'], true);
        }

        return $marks;
    }

    public function mark(string $name, string $disk, string $mark): void
    {
        self::refuseUnfitMark($mark);
        $image = $this->imageOf($name, $disk);
        self::removeMarks($image, array_keys($this->allMarks($image)));
        self::addMark($image, $mark);
    }

    private static function addMark(string $image, string $mark): void
    {
        self::run(['qemu-img', 'bitmap', '--add', '-g', (string) self::GRANULARITY, '-f', 'qcow2', $image, $mark]);
    }

    /** @param  array<string>  $marks */
    private static function removeMarks(string $image, array $marks): void
    {
        foreach ($marks as $mark) {
            self::run(['qemu-img', 'bitmap', '--remove', '-f', 'qcow2', $image, $mark]);
        }
    }

    private static function refuseUnfitMark(string $mark): void
    {
        preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,200}$/D', $mark) === 1 || throw HypervisorFailure::because('no mark is called that');
    }

    public function beginMoment(string $name, array $disks, string $mark): Moment
    {
        self::refuseUnfitMark($mark);
        $machine = $this->known($name);
        $images = $sizes = [];
        foreach ($disks as $disk) {
            $storage = $machine->storages[$disk] ?? throw HypervisorFailure::because("$name has no disk ".mb_scrub($disk));
            $images[$disk] = $this->image($storage, $name, $disk);
            $sizes[$disk] = (int) $machine->settings->disk($disk)?->size;
        }
        if (isset($this->moments[$name]) || $images === []) {
            throw HypervisorFailure::because("no moment of $name is kept: ".($images === [] ? 'of no disk' : 'one is kept already'));
        }

        return $machine->isRunning() ? $this->running($machine, $images, $sizes, $mark) : $this->resting($machine, $images, $mark);
    }

    /**
     * @param  array<string, string>  $images
     * @param  array<string, int>  $sizes
     */
    private function running(MachineSeen $machine, array $images, array $sizes, string $mark): Moment
    {
        $name = $machine->settings->name;
        $socket = $this->folder.'/'.RemoteHypervisor::DOORS.'/'.self::doorName();
        $unrest = null;
        try {
            $agent = GuestAgent::of($this->process($name));
        } catch (HypervisorFailure $failure) {
            [$agent, $unrest] = [null, $failure->getMessage()];
        }
        $held = HeldMoment::begin($this->process($name), $images, $sizes, $mark, $socket, $agent);
        chmod($socket, 0660);
        $this->moments[$name] = $held;

        return new Moment($machine->settings, $held->doors($socket), $held->since(), true, $unrest ?? $held->unrest);
    }

    /** @param  array<string, string>  $images */
    private function resting(MachineSeen $machine, array $images, string $mark): Moment
    {
        $name = $machine->settings->name;
        $doors = $since = $before = [];
        foreach ($images as $disk => $image) {
            $marks = $this->allMarks($image);
            $before[$disk] = array_keys($marks);
            $sound = array_keys(array_filter($marks));
            $since += $sound === [] ? [] : [$disk => (string) end($sound)];
            self::addMark($image, $mark);
        }
        $this->moments[$name] = $before;
        foreach (array_keys($images) as $disk) {
            $doors[$disk] = $this->openDisk($name, $disk, false, $since[$disk] ?? null);
        }

        return new Moment($machine->settings, $doors, $since, false);
    }

    public function endMoment(string $name, bool $isKept): void
    {
        $moment = $this->moments[$name] ?? throw HypervisorFailure::because("no moment of $name is kept");
        unset($this->moments[$name]);
        if ($moment instanceof HeldMoment) {
            $moment->end($isKept);

            return;
        }
        foreach (array_keys($this->doors) as $door) {
            $this->end($door);
        }
        foreach ($moment as $disk => $before) {
            $image = $this->imageOf($name, (string) $disk);
            self::removeMarks($image, $isKept ? $before : array_diff(array_keys($this->allMarks($image)), $before));
        }
    }

    public function agent(string $name): AgentFacts
    {
        return $this->agentOf($name)->facts();
    }

    public function runInside(string $name, array $command, int $limit): InsideOutcome
    {
        return $this->agentOf($name)->run($command, $limit);
    }

    private function agentOf(string $name): GuestAgent
    {
        $this->known($name)->isRunning() || throw HypervisorFailure::because("$name does not run");

        return GuestAgent::of($this->process($name));
    }

    public function serial(string $name): string
    {
        return $this->process($this->known($name)->settings->name)->serial();
    }

    public function screen(string $name): string
    {
        $this->known($name)->isRunning() || throw HypervisorFailure::because("$name does not run");

        return $this->process($name)->screen();
    }

    /** @param  list<string>  $command */
    public static function run(array $command): string
    {
        $process = new Process($command, '/', null, null, 300);
        $process->run() === 0 || throw HypervisorFailure::because("{$command[0]} {$command[1]}: ".self::said($process));

        return $process->getOutput();
    }

    private static function said(Process $process): string
    {
        return mb_strcut(mb_scrub(trim($process->getErrorOutput())), 0, 500);
    }
}
