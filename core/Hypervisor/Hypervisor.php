<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/**
 * The border to what runs machines. Disks are read and written by NBD, through a door that is open for as long as this object lives:
 * when who opened it is gone, so is the door.
 *
 * Every method throws HypervisorFailure if it does not answer, or will not do it.
 */
interface Hypervisor
{
    public const MOST_SECONDS = 240;

    /** Bytes that are written into a machine at once. */
    public const MOST_WRITTEN = 1 << 18;

    public function room(): HostRoom;

    /** @return array<string, MachineSeen> by name */
    public function machines(): array;

    public function machine(string $name): ?MachineSeen;

    /**
     * A new machine; it is off. Its disks are zeros, but for those that are read from elsewhere until they are settled: what is written
     * to these lies on their storage.
     *
     * @param  array<string, string>  $storages  disk => storage
     * @param  array<string, DiskDoor>  $sources  disk => where it is served, at a path that servedAt() gave
     */
    public function create(MachineSettings $settings, array $storages, array $sources = []): void;

    /** The path of a socket of this machine at which disks can be served to it, under a name of letters and digits, at most 20. */
    public function servedAt(string $name): string;

    /**
     * Has a disk of a machine that runs, and is read from elsewhere, come to its storage while it runs; or sets another limit to that.
     *
     * @param  int  $limit  megabytes (10^6) a second; 0 for none
     * @param  string|null  $storage  to have all of it come to that one instead, what the machine has written to it as well: it is there
     *                                once changeOver() was called
     */
    public function settle(string $name, string $disk, int $limit, ?string $storage = null): void;

    /**
     * A disk all of which has come to another storage is that one from now on; where it lay it is removed. The machine stands still for a
     * moment. One that was cut off is gone on with.
     */
    public function changeOver(string $name, string $disk): void;

    /** @return array<string, Settling> disk => how far it is, of those that are still read from elsewhere, or go there */
    public function settling(string $name): array;

    /** What has come to the storage that it lies on stays; what came to another one does not. */
    public function stopSettling(string $name, string $disk): void;

    /** Other settings of a machine that is off; its disks stay, but for their bus and order. */
    public function configure(string $name, MachineSettings $settings): void;

    /** Another name for a machine. */
    public function rename(string $name, string $to): void;

    /** A machine that is off, and its disks. */
    public function delete(string $name): void;

    /** A disk of a machine, and the one of its name and size of another, change places; both machines are off. */
    public function swapDisk(string $name, string $disk, string $with): void;

    /** A disk of a machine that is off goes, with what is on it. */
    public function removeDisk(string $name, string $disk): void;

    public function start(string $name): void;

    /** @param  bool  $atOnce  as if its power were cut; else it is asked to, and this does not wait for it */
    public function stop(string $name, bool $atOnce): void;

    /**
     * A disk of a machine that is off. What is written through a door makes every mark of the disk void.
     *
     * @param  string|null  $mark  of what changed since it was set, to be asked for
     */
    public function openDisk(string $name, string $disk, bool $toWrite, ?string $mark = null): DiskDoor;

    public function closeDisk(DiskDoor $door): void;

    /** @return list<string> marks of a disk of a machine that is off which can be believed: the machine went off as it should */
    public function marks(string $name, string $disk): array;

    /** From now on it is written down which areas of a disk of a machine that is off change; marks from before go. */
    public function mark(string $name, string $disk, string $mark): void;

    /**
     * Keeps disks of a machine as they are now, all in one instant, to be read until endMoment(), or until this object goes. From that
     * instant on it is written down under a mark what changes; the mark before ends there, and is told where it can be believed. If an
     * agent answers in it, its file systems are brought to rest for that instant.
     *
     * @param  list<string>  $disks
     * @param  string|null  $snapshot  to read them as they were in that one; nothing is marked then
     */
    public function beginMoment(string $name, array $disks, string $mark, ?string $snapshot = null): Moment;

    /** @param  bool  $isKept  whether what was read is a set now: else the mark goes, and the one before goes on as if nothing had been */
    public function endMoment(string $name, bool $isKept): void;

    /**
     * Keeps all disks of a machine as they are now, in one instant, where they lie, under a name of letters, digits, dots, dashes and
     * underscores. If an agent answers in it, its file systems are brought to rest for that instant.
     */
    public function takeSnapshot(string $name, string $snapshot): void;

    public function dropSnapshot(string $name, string $snapshot): void;

    /**
     * Has a machine that runs read a disk of another one, which is off, until that is unplugged, or it goes off.
     *
     * @param  string  $serial  by which it finds it among its disks: letters, digits and dashes, at most 20
     */
    public function plug(string $name, string $of, string $disk, string $serial): void;

    /** The machine has it no more; one that it does not have is none already. */
    public function unplug(string $name, string $serial): void;

    /** What answers in a machine that runs, by its agent. */
    public function agent(string $name): AgentFacts;

    /**
     * Runs a program in a machine, by its agent, until it ends.
     *
     * @param  non-empty-list<string>  $command  its arguments; no shell's
     * @param  int  $limit  seconds after which it is ended, at most MOST_SECONDS
     */
    public function runInside(string $name, array $command, int $limit): InsideOutcome;

    /**
     * Writes to a file in a machine that runs, by its agent: a new one, or behind what is in it.
     *
     * @param  string  $bytes  at most MOST_WRITTEN
     */
    public function writeInside(string $name, string $path, string $bytes, bool $isNew): void;

    /**
     * Makes a network apart: cards that are on it reach each other and nothing else, what they send anywhere else is written down and goes
     * nowhere, and the address of a machine there leads to it as ever. It is among the annexes of its room until it is closed.
     */
    public function openAnnex(string $name): void;

    /** One on which no card is any more; its record goes with it. */
    public function closeAnnex(string $name): void;

    /** What was written down in an annex, from a byte on. */
    public function annexRecord(string $name, int $from): AnnexRecord;

    /** Types at the serial line of a machine that runs. */
    public function type(string $name, string $text): void;

    /** What came over the serial line since it was started, the end of it. */
    public function serial(string $name): string;

    /** What its firmware said since it was started, where it says anything but on the screen. */
    public function firmware(string $name): string;

    /** The counters of a machine that runs. */
    public function beat(string $name): Beat;

    /** What is on its screen, as PNG. */
    public function screen(string $name): string;
}
