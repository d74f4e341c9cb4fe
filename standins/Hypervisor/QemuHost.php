<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\AgentFacts;
use Kaiseki\Core\Hypervisor\AnnexRecord;
use Kaiseki\Core\Hypervisor\Beat;
use Kaiseki\Core\Hypervisor\DiskDoor;
use Kaiseki\Core\Hypervisor\Firmware;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\InsideOutcome;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\Moment;
use Kaiseki\Core\Hypervisor\RemoteHypervisor;
use Kaiseki\Core\Hypervisor\Settling;
use Kaiseki\Core\Hypervisor\Storage;

/**
 * A hypervisor in small: machines are QEMU processes, their disks qcow2 files in the folders of its storages, their settings JSON files.
 * Its folder holds host.json, which says how much it has of what: {memory_mib, slots, storages: {NAME: bytes}, networks: [NAME]}.
 * Some of these may be "leading", {NETWORK: FILE}: cards on one reach the line of a desk, whose address stands in that file, and nothing
 * else.
 */
final class QemuHost implements Hypervisor
{
    /** @var array<string, HeldMoment|array<string, list<string>>> machine => what keeps its disks; of one that is off the marks they had */
    private array $moments = [];

    private readonly ImageDoors $doors;

    public function __construct(private readonly string $folder)
    {
        foreach (['machines', 'storages', 'annexes', 'run'] as $part) {
            is_dir("$folder/$part") || mkdir("$folder/$part", 0700, true);
        }
        $before = umask(0027); // whose group the folder is may come in
        is_dir($folder.'/'.RemoteHypervisor::DOORS) || mkdir($folder.'/'.RemoteHypervisor::DOORS, 0750);
        umask(0007);
        is_dir($folder.'/'.RemoteHypervisor::SERVED) || mkdir($folder.'/'.RemoteHypervisor::SERVED, 0770);
        umask($before);
        $this->doors = new ImageDoors($folder.'/'.RemoteHypervisor::DOORS, "$folder/run");
        foreach (array_keys($this->facts()['storages']) as $storage) {
            is_dir("$folder/storages/$storage") || mkdir("$folder/storages/$storage", 0700);
        }
        foreach (KeptAnnex::names($folder) as $name) {
            KeptAnnex::of($folder, $name)?->mend();
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
        $this->doors->closeAll();
    }

    /** @return array{memory_mib: int, slots: int, storages: array<string, int>, networks: list<string>, leading?: array<string, string>} */
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
            KeptAnnex::names($this->folder),
        );
    }

    private function storage(string $name): Storage
    {
        $size = $this->facts()['storages'][$name] ?? throw HypervisorFailure::because("there is no storage $name here");
        $used = 0;
        foreach (glob("{$this->folder}/storages/$name/*") ?: [] as $file) {
            $used += DiskImage::held($file);
        }

        return new Storage($name, $size, max(0, min($size - $used, (int) disk_free_space("{$this->folder}/storages/$name"))));
    }

    public function machines(): array
    {
        $machines = [];
        foreach (KeptMachine::names($this->folder) as $name) {
            $machine = $this->machine($name);
            if ($machine !== null) {
                $machines[$name] = $machine;
            }
        }

        return $machines;
    }

    public function machine(string $name): ?MachineSeen
    {
        $kept = KeptMachine::read($this->folder, $name);
        if ($kept === null) {
            return null;
        }
        $process = $kept->process();
        $since = $process->since();
        $port = $since === null ? null : $process->port();

        return new MachineSeen(
            $kept->settings,
            $kept->storages,
            array_map(DiskImage::held(...), $kept->images()),
            $since,
            $port === null ? null : "127.0.0.1:$port",
            array_map(strval(...), array_keys($kept->sources())),
            $kept->snapshots,
        );
    }

    private function known(string $name): KeptMachine
    {
        return KeptMachine::read($this->folder, $name) ?? throw HypervisorFailure::because('there is no machine '.mb_scrub($name).' here');
    }

    private function off(string $name): KeptMachine
    {
        $machine = $this->known($name);

        return $machine->process()->pid() === null ? $machine : throw HypervisorFailure::because("$name runs: it must be off for that");
    }

    private function running(string $name): KeptMachine
    {
        $machine = $this->known($name);

        return $machine->process()->pid() !== null ? $machine : throw HypervisorFailure::because("$name does not run");
    }

    public function create(MachineSettings $settings, array $storages, array $sources = []): void
    {
        $this->refuseKnown($settings->name);
        foreach ($settings->disks as $disk) {
            $storage = $this->storage($storages[$disk->name] ?? '');
            $storage->free > 0 || throw HypervisorFailure::because("the storage {$storage->name} is full");
        }
        $this->refuseUnknownNetworks($settings);
        $named = array_flip($settings->diskNames());
        $machine = new KeptMachine(
            $this->folder,
            KeptMachine::freeId($this->folder, $settings->name),
            $settings,
            array_intersect_key($storages, $named),
            array_intersect_key($sources, $named),
        );
        foreach ($settings->disks as $disk) {
            DiskImage::create($machine->image($disk->name), $disk->size, $sources[$disk->name] ?? null);
        }
        $machine->keep();
    }

    public function servedAt(string $name): string
    {
        return "{$this->folder}/".RemoteHypervisor::SERVED."/$name";
    }

    private function refuseKnown(string $name): void
    {
        KeptMachine::read($this->folder, $name) === null || throw HypervisorFailure::because("there is a machine $name here already");
    }

    private function refuseUnknownNetworks(MachineSettings $settings): void
    {
        $networks = [...$this->facts()['networks'], ...KeptAnnex::names($this->folder)];
        foreach ($settings->cards as $card) {
            in_array($card->network, $networks, true) ||
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
        $machine->with(settings: $settings->with(name: $name))->keep();
    }

    public function rename(string $name, string $to): void
    {
        $machine = $this->known($name);
        $named = $machine->with(settings: $machine->settings->with(name: $to));
        $this->refuseKnown($to);
        $named->keep();
        $machine->forget();
    }

    public function delete(string $name): void
    {
        $machine = $this->off($name);
        foreach (array_keys($machine->moves) as $disk) {
            $machine->moved((string) $disk);
        }
        $machine->forget();
        foreach ($machine->images() as $image) {
            @unlink($image);
        }
        @unlink($machine->variables());
    }

    public function swapDisk(string $name, string $disk, string $with): void
    {
        [$one, $other] = [$this->off($name), $this->off($with)];
        $size = $one->settings->disk($disk)?->size;
        ($size !== null && $size === $other->settings->disk($disk)?->size) ||
            throw HypervisorFailure::because("$name and $with have no disk $disk of one size");
        $one->snapshots + $other->snapshots === [] || throw HypervisorFailure::because(
            "snapshots of $name or $with are kept where the disk $disk lies: drop them first",
        );
        [$here, $there] = [$one->image($disk), $other->image($disk)];
        $one->storages[$disk] === $other->storages[$disk] ||
            throw HypervisorFailure::because("the disks $disk of $name and $with lie on two storages");
        rename($here, "$here.swapped");
        rename($there, $here);
        rename("$here.swapped", $there);
    }

    public function removeDisk(string $name, string $disk): void
    {
        $machine = $this->off($name);
        $machine->settings->disk($disk) !== null || throw HypervisorFailure::because("$name has no disk ".mb_scrub($disk));
        $machine->snapshots === [] || throw HypervisorFailure::because("snapshots of $name are kept: drop them first");
        $image = $machine->image($disk);
        $machine->without($disk)->keep();
        @unlink($image);
    }

    public function start(string $name): void
    {
        $machine = $this->known($name);
        $process = $machine->process();
        $process->pid() === null || throw HypervisorFailure::because("$name runs already");
        $room = $this->room();
        $room->slotsFree > 0 || throw HypervisorFailure::because("{$room->slots} machines run here, and no more can");
        $room->memoryFree >= $machine->settings->memory ||
            throw HypervisorFailure::because("$name needs {$machine->settings->memory} MiB of memory, and {$room->memoryFree} are free");
        foreach (array_keys($machine->moves) as $disk) {
            $machine = $machine->moved((string) $disk);
        }
        $process->start($machine, $this->most($machine), $this->annexesOf($machine->settings), $this->lines());
        $process->unplug($machine->settings);
    }

    /** Bytes of which no file of a machine becomes larger: it is one limit for all of them, that of the storage with the least room. */
    private function most(KeptMachine $machine): int
    {
        $most = PHP_INT_MAX;
        foreach ($machine->images() as $disk => $image) {
            $most = min($most, $this->mostBytes($machine->storages[$disk], $image));
        }

        return $most;
    }

    /** @return array<string, string> network => HOST:PORT of this machine to which it leads */
    private function lines(): array
    {
        $lines = array_map(fn (string $file): string => trim((string) @file_get_contents($file)), $this->facts()['leading'] ?? []);

        return array_filter($lines, fn (string $line): bool => preg_match('/^[A-Za-z0-9.:-]{1,200}:[0-9]{1,5}$/D', $line) === 1);
    }

    /** @return array<string, KeptAnnex> network => annex */
    private function annexesOf(MachineSettings $settings): array
    {
        $annexes = [];
        foreach ($settings->cards as $card) {
            $annexes[$card->network] = KeptAnnex::of($this->folder, $card->network);
        }

        return array_filter($annexes);
    }

    public function openAnnex(string $name): void
    {
        in_array($name, $this->facts()['networks'], true) && throw HypervisorFailure::because("$name is a network here");
        KeptAnnex::open($this->folder, $name);
    }

    public function closeAnnex(string $name): void
    {
        $annex = $this->annex($name);
        foreach ($this->machines() as $machine) {
            foreach ($machine->settings->cards as $card) {
                $card->network !== $name || throw HypervisorFailure::because("{$machine->settings->name} is in the annex $name");
            }
        }
        $annex->close();
    }

    public function annexRecord(string $name, int $from): AnnexRecord
    {
        $annex = $this->annex($name);
        $bytes = @file_get_contents($annex->recordFile(), false, null, $from, AnnexRecord::MOST_AT_ONCE);

        return new AnnexRecord((string) $bytes, (int) @file_get_contents($annex->beyondFile()));
    }

    private function annex(string $name): KeptAnnex
    {
        return KeptAnnex::of($this->folder, $name) ?? throw HypervisorFailure::because('there is no annex '.mb_scrub($name).' here');
    }

    public function settle(string $name, string $disk, int $limit, ?string $storage = null): void
    {
        $machine = $this->running($name);
        $storage ??= $machine->storages[$disk] ?? '';
        if ($storage !== ($machine->storages[$disk] ?? '')) {
            $this->move($machine, $disk, $storage, $limit * 1_000_000);

            return;
        }
        isset($machine->sources()[$disk]) || throw HypervisorFailure::because("the disk $disk of $name lies where it is as a whole");
        ! isset($machine->moves[$disk]) || $this->stopSettling($name, $disk);
        (new DiskStream($machine->process()))->go($disk, $limit * 1_000_000);
    }

    private function move(KeptMachine $machine, string $disk, string $storage, int $bytesASecond): void
    {
        $name = $machine->settings->name;
        $size = $machine->settings->disk($disk)->size ?? throw HypervisorFailure::because("$name has no disk ".mb_scrub($disk));
        $goes = $machine->moves[$disk][1] ?? $storage;
        $goes === $storage || throw HypervisorFailure::because("the disk $disk of $name comes to $goes: stop that first");
        $free = $this->storage($storage)->free;
        if (! isset($machine->moves[$disk])) {
            $free > 0 || throw HypervisorFailure::because("the storage $storage is full");
            (new DiskStream($machine->process()))->stop($disk);
            $machine = $machine->with(moves: [$disk => [$machine->storages[$disk], $storage]] + $machine->moves);
            $machine->keep();
        }
        $image = $machine->imageOn($storage, $disk);
        $machine->process()->limit($free + (int) @filesize($image));
        (new DiskMove($machine->process(), $disk, $image, $size))->go($bytesASecond);
    }

    public function changeOver(string $name, string $disk): void
    {
        $machine = $this->running($name);
        $to = $machine->moves[$disk][1] ?? throw HypervisorFailure::because("the disk $disk of $name goes nowhere");
        $there = $machine->with(storages: array_replace($machine->storages, [$disk => $to]));
        (new DiskMove($machine->process(), $disk, $machine->imageOn($to, $disk), (int) $machine->settings->disk($disk)?->size))
            ->changeOver($there->keep(...));
        $this->known($name)->moved($disk);
    }

    public function settling(string $name): array
    {
        $machine = $this->known($name);
        $process = $machine->process()->pid();
        $disks = [];
        foreach (array_keys($machine->sources() + $machine->moves) as $disk) {
            $size = (int) $machine->settings->disk((string) $disk)?->size;
            $disks[(string) $disk] = $process === null ? new Settling(0, $size, false) : $this->far($machine, (string) $disk, $size);
        }

        return $disks;
    }

    private function far(KeptMachine $machine, string $disk, int $size): Settling
    {
        $to = $machine->moves[$disk][1] ?? null;
        $job = match (true) {
            $to === null => (new DiskStream($machine->process()))->job($disk),
            $to === $machine->storages[$disk] => new Settling($size, $size, true, null, true), // changing over was cut off
            default => (new DiskMove($machine->process(), $disk, $machine->imageOn($to, $disk), $size))->job(),
        };

        return $job ?? new Settling(0, $size, false);
    }

    public function stopSettling(string $name, string $disk): void
    {
        $machine = $this->running($name);
        if (! isset($machine->moves[$disk])) {
            (new DiskStream($machine->process()))->stop($disk);

            return;
        }
        [$from, $to] = $machine->moves[$disk];
        if ($machine->storages[$disk] === $from) {
            (new DiskMove($machine->process(), $disk, $machine->imageOn($to, $disk), 0))->stop();
            $machine->moved($disk);
            $machine->process()->limit($this->most($machine));
        }
    }

    /** No file of a storage grows beyond what is free there: whoever writes meets a full disk. */
    private function mostBytes(string $storage, string $file): int
    {
        clearstatcache(true, $file);

        return (int) filesize($file) + $this->storage($storage)->free;
    }

    public function stop(string $name, bool $atOnce): void
    {
        $process = $this->running($name)->process();
        $atOnce ? $process->end() : $process->powerDown();
    }

    /** All machines off, as when its power is switched off in order. */
    public function powerOff(): void
    {
        foreach (KeptMachine::names($this->folder) as $name) {
            KeptMachine::read($this->folder, $name)?->process()->end();
        }
        foreach (KeptAnnex::names($this->folder) as $name) {
            $this->annex($name)->end();
        }
    }

    public function openDisk(string $name, string $disk, bool $toWrite, ?string $mark = null): DiskDoor
    {
        $machine = $this->off($name);
        $image = $machine->image($disk);
        $toWrite && DiskImage::removeMarks($image, array_keys(DiskImage::marks($image)));

        return $this->doors->open($image, $toWrite, $this->mostBytes($machine->storages[$disk], $image), $mark);
    }

    public function closeDisk(DiskDoor $door): void
    {
        $this->doors->close(basename($door->socket));
    }

    public function marks(string $name, string $disk): array
    {
        return array_keys(array_filter(DiskImage::marks($this->off($name)->image($disk))));
    }

    public function mark(string $name, string $disk, string $mark): void
    {
        self::refuseUnfitMark($mark);
        $image = $this->off($name)->image($disk);
        DiskImage::removeMarks($image, array_keys(DiskImage::marks($image)));
        DiskImage::addMark($image, $mark);
    }

    private static function refuseUnfitMark(string $mark): void
    {
        preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,200}$/D', $mark) === 1 || throw HypervisorFailure::because('no mark is called that');
    }

    public function beginMoment(string $name, array $disks, string $mark, ?string $snapshot = null): Moment
    {
        self::refuseUnfitMark($mark);
        $machine = $this->known($name);
        if ($snapshot !== null) {
            return $this->ofSnapshot($machine, $disks, $snapshot);
        }
        $images = $sizes = [];
        foreach ($disks as $disk) {
            $images[$disk] = $machine->image($disk);
            $sizes[$disk] = (int) $machine->settings->disk($disk)?->size;
        }
        if (isset($this->moments[$name]) || $images === []) {
            throw HypervisorFailure::because("no moment of $name is kept: ".($images === [] ? 'of no disk' : 'one is kept already'));
        }
        $isRunning = $machine->process()->pid() !== null;
        foreach ($isRunning ? $this->settling($name) : [] as $disk => $settling) {
            (! $settling->isAtWork && ! isset($machine->moves[$disk])) || throw HypervisorFailure::because(
                "$name is being settled: no moment of it can be kept until that is over",
            );
        }

        return $isRunning ? $this->inRunning($machine, $images, $sizes, $mark) : $this->resting($machine, $images, $mark);
    }

    /** @param  list<string>  $disks */
    private function ofSnapshot(KeptMachine $machine, array $disks, string $snapshot): Moment
    {
        $name = $machine->settings->name;
        $was = $machine->snapshots[$snapshot] ?? throw HypervisorFailure::because("no snapshot $snapshot of $name is kept");
        ! isset($this->moments[$name]) || throw HypervisorFailure::because("no moment of $name is kept: one is kept already");
        $doors = [];
        foreach ($disks as $disk) {
            $doors[$disk] = $this->doors->open($machine->image($disk), false, PHP_INT_MAX, null, $snapshot);
        }
        $this->moments[$name] = []; // no mark begins or ends

        return new Moment($machine->settings, $doors, [], $was->isRunning, $was->unrest);
    }

    public function takeSnapshot(string $name, string $snapshot): void
    {
        self::refuseUnfitMark($snapshot);
        $machine = $this->known($name);
        ! isset($machine->snapshots[$snapshot]) || throw HypervisorFailure::because("a snapshot $snapshot of $name is kept already");
        $machine->sources() + $machine->moves === [] || throw HypervisorFailure::because("$name is read from elsewhere: settle it first");
        foreach (array_unique($machine->storages) as $storage) {
            $this->storage($storage)->free > 0 || throw HypervisorFailure::because("the storage $storage is full");
        }
        $seen = (new DiskSnapshots($machine))->take($snapshot);
        $machine->with(snapshots: $machine->snapshots + [$snapshot => $seen])->keep();
    }

    public function dropSnapshot(string $name, string $snapshot): void
    {
        $machine = $this->known($name);
        isset($machine->snapshots[$snapshot]) || throw HypervisorFailure::because("no snapshot $snapshot of $name is kept");
        (new DiskSnapshots($machine))->drop($snapshot);
        $machine->with(snapshots: array_diff_key($machine->snapshots, [$snapshot => true]))->keep();
    }

    /**
     * @param  array<string, string>  $images
     * @param  array<string, int>  $sizes
     */
    private function inRunning(KeptMachine $machine, array $images, array $sizes, string $mark): Moment
    {
        $socket = $this->folder.'/'.RemoteHypervisor::DOORS.'/'.ImageDoors::name();
        $unrest = null;
        try {
            $agent = GuestAgent::of($machine->process());
        } catch (HypervisorFailure $failure) {
            [$agent, $unrest] = [null, $failure->getMessage()];
        }
        $held = HeldMoment::begin($machine->process(), $images, $sizes, $mark, $socket, $agent);
        chmod($socket, 0660);
        $this->moments[$machine->settings->name] = $held;

        return new Moment($machine->settings, $held->doors($socket), $held->since(), true, $unrest ?? $held->unrest);
    }

    /** @param  array<string, string>  $images */
    private function resting(KeptMachine $machine, array $images, string $mark): Moment
    {
        $name = $machine->settings->name;
        $doors = $since = $before = [];
        foreach ($images as $disk => $image) {
            $marks = DiskImage::marks($image);
            $before[$disk] = array_keys($marks);
            $sound = array_keys(array_filter($marks));
            $since += $sound === [] ? [] : [$disk => (string) end($sound)];
            DiskImage::addMark($image, $mark);
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
        $this->doors->closeAll();
        foreach ($moment as $disk => $before) {
            $image = $this->off($name)->image((string) $disk);
            DiskImage::removeMarks($image, $isKept ? $before : array_diff(array_keys(DiskImage::marks($image)), $before));
        }
    }

    public function plug(string $name, string $of, string $disk, string $serial): void
    {
        preg_match('/^[A-Za-z0-9-]{1,20}$/D', $serial) === 1 || throw HypervisorFailure::because('no disk has a serial number like that');
        $machine = $this->running($name);
        $machine->settings->firmware === Firmware::Bios || throw HypervisorFailure::because(
            "no disk can be plugged into $name while it runs: its board has no room for one",
        );
        (new PluggedDisk($machine->process(), $serial))->plug($this->off($of)->image($disk));
    }

    public function unplug(string $name, string $serial): void
    {
        $process = $this->known($name)->process();
        $process->pid() === null || (new PluggedDisk($process, $serial))->unplug();
    }

    public function agent(string $name): AgentFacts
    {
        return $this->agentOf($name)->facts();
    }

    public function runInside(string $name, array $command, int $limit): InsideOutcome
    {
        return $this->agentOf($name)->run($command, $limit);
    }

    public function writeInside(string $name, string $path, string $bytes, bool $isNew): void
    {
        $this->agentOf($name)->write($path, $bytes, $isNew);
    }

    private function agentOf(string $name): GuestAgent
    {
        return GuestAgent::of($this->running($name)->process());
    }

    public function serial(string $name): string
    {
        return $this->known($name)->process()->serial();
    }

    public function type(string $name, string $text): void
    {
        $this->running($name)->process()->type($text);
    }

    public function firmware(string $name): string
    {
        return $this->known($name)->process()->firmwareSaid();
    }

    public function beat(string $name): Beat
    {
        return $this->running($name)->process()->beat();
    }

    public function screen(string $name): string
    {
        return $this->running($name)->process()->screen();
    }
}
