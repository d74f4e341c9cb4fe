<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Scan;

use App\Kinds\Machines\Disks\DisksTree;
use App\Kinds\Machines\Disks\VolumeOfPoint;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Standing\Standing;
use App\Models\TrailEntry;
use App\Words;
use Generator;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Scan\ClamLink;
use Kaiseki\Core\Scan\ScannerIsSilent;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;

/**
 * Looks through every file of a machine as its disks are in one instant, whether it runs or not, for as long as the scan may take. What it
 * could not look into is told with why.
 */
final class ScanOfMachine
{
    /** Of what was not looked into, that are kept with their paths. */
    private const MOST_TOLD = 200;

    /** Times that a scanner which hung up is begun again. */
    private const MOST_BEGINNINGS = 20;

    private float $until = 0.0;

    private float $kept = 0.0;

    private int $files = 0;

    private int $bytes = 0;

    /** @var list<array{path: string, because: string}> */
    private array $notLooked = [];

    private int $notLookedCount = 0;

    private int $beginnings = 0;

    private ?ClamLink $link = null;

    private Scanner $scanner;

    public function __construct(private readonly AnnexScan $scan)
    {
    }

    public function carryOut(): void
    {
        $standing = Standing::ofRun($this->scan->annex->run);
        $this->until = microtime(true) + $this->scan->budget;
        $this->scan->update(['state' => AnnexScan::RUNNING, 'began_at' => now()]);
        try {
            ($standing !== null && $standing->ended === null) || throw CannotBring::because('It does not stand any more.');
            $this->scanner = new Scanner;
            $this->through($standing->hypervisor->open(), $standing->machine);
        } catch (ScannerIsSilent|HypervisorFailure|CannotBring|UnableToRead $failure) {
            $failed = ['state' => AnnexScan::FAILED, 'failure' => mb_substr(mb_scrub($failure->getMessage()), 0, 500), 'ended_at' => now()];
            $this->scan->update($failed);

            return;
        }
        $this->keep();
        $this->scan->update(['state' => AnnexScan::DONE, 'ended_at' => now()]);
        $found = AnnexFinding::query()->where('scan_id', $this->scan->id)->count();
        $told = "{$standing->machine} was scanned: ".Words::count($this->files, 'file').", $found found to be bad, ".
            Words::count($this->notLookedCount, 'thing').' not looked into.';
        TrailEntry::add($told, $standing->run->request, null, $standing->run);
    }

    private function through(Hypervisor $hypervisor, string $machine): void
    {
        $settings = $hypervisor->machine($machine)->settings ?? throw CannotBring::because("There is no machine $machine any more.");
        $moment = $hypervisor->beginMoment($machine, $settings->diskNames(), "kaiseki-scan-{$this->scan->id}");
        $disks = [];
        try {
            foreach ($moment->doors as $name => $door) {
                $disks[$name] = NbdDisk::open($door);
            }
            $volumes = (new DisksTree($machine, $disks))->volumes();
            foreach (array_values($volumes) as $i => $volume) {
                $left = array_slice(array_keys($volumes), $i + 1);
                if (! $this->volume($volume)) {
                    array_map(fn (int|string $name) => $this->notLooked((string) $name, 'the time was over'), $left);
                    break;
                }
            }
        } finally {
            array_map(fn (NbdDisk $disk) => $disk->close(), $disks);
            $hypervisor->endMoment($machine, false);
            $this->scanner->end();
        }
    }

    /** @return bool whether there was time for all of it */
    private function volume(VolumeOfPoint $volume): bool
    {
        if ($volume->files === null) {
            $this->notLooked($volume->name, (string) $volume->because);

            return true;
        }
        $path = $volume->name;
        try {
            foreach ($this->filesOf($volume) as $path => $file) {
                $this->file($volume, $path, $file);
                $this->keepNowAndThen();
            }
        } catch (ScanIsOver) {
            $this->notLooked($path, 'the time was over here: neither it nor what comes behind it on its volume was looked into');

            return false;
        } catch (UnreadableVolume|UnreadableImage $unreadable) {
            $this->notLooked($path, "from here on the volume cannot be read: it {$unreadable->getMessage()}");
        }

        return true;
    }

    /** @return Generator<string, FoundFile> path => file, that hold something */
    private function filesOf(VolumeOfPoint $volume): Generator
    {
        $tree = $volume->files;
        $folders = $tree === null ? [] : [[$volume->name, $tree->root()]];
        $seen = [];
        while ($tree !== null && $folders !== []) {
            [$at, $folder] = array_pop($folders);
            if (isset($seen[$folder->node])) {
                continue; // a folder lies in itself
            }
            $seen[$folder->node] = true;
            foreach ($tree->children($folder) as $name => $file) {
                microtime(true) < $this->until || throw new ScanIsOver;
                match ($file->version->kind) {
                    EntryKind::Folder => $folders[] = ["$at/$name", $file],
                    EntryKind::File => yield "$at/$name" => $file,
                    default => null,
                };
            }
        }
    }

    private function file(VolumeOfPoint $volume, string $path, FoundFile $file): void
    {
        $size = $file->version->size;
        if ($size === 0 || $size > Scanner::LARGEST) {
            $size === 0 ? $this->files++ : $this->notLooked($path, 'it is larger than '.Words::size(Scanner::LARGEST));

            return;
        }
        $digest = hash_init('sha256');
        try {
            $answer = $this->link()->scan($this->content($volume, $file, $digest));
        } catch (ScannerIsSilent $silent) {
            $this->link = null;
            ++$this->beginnings < self::MOST_BEGINNINGS || throw $silent;
            $this->notLooked($path, 'the scanner did not get through it');

            return;
        } catch (UnreadableVolume|UnreadableImage $unreadable) {
            $this->link = null; // it waits for the rest of it
            $this->notLooked($path, "it cannot be read: it {$unreadable->getMessage()}");

            return;
        }
        if ($answer->because !== null) {
            $this->notLooked($path, $answer->because);

            return;
        }
        $this->files++;
        $this->bytes += $size;
        $answer->found === null || AnnexFinding::found($this->scan, $path, $answer->found, hash_final($digest), $size);
    }

    private function link(): ClamLink
    {
        return $this->link ??= $this->scanner->session();
    }

    /** @return Generator<string> */
    private function content(VolumeOfPoint $volume, FoundFile $file, \HashContext $digest): Generator
    {
        foreach ($volume->files?->content($file) ?? [] as $bytes) {
            microtime(true) < $this->until || throw new ScanIsOver;
            hash_update($digest, $bytes);
            yield $bytes;
        }
    }

    private function notLooked(string $path, string $because): void
    {
        $this->notLookedCount++;
        if (count($this->notLooked) < self::MOST_TOLD) {
            $this->notLooked[] = ['path' => rawurlencode($path), 'because' => mb_strcut(mb_scrub($because), 0, 300)];
        }
    }

    private function keepNowAndThen(): void
    {
        if (microtime(true) - $this->kept >= 1.0) {
            $this->keep();
        }
    }

    private function keep(): void
    {
        $this->kept = microtime(true);
        $this->scan->update([
            'files' => $this->files,
            'bytes' => $this->bytes,
            'not_looked' => $this->notLooked,
            'not_looked_count' => $this->notLookedCount,
        ]);
    }
}
