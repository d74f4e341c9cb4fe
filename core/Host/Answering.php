<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Kaiseki\Core\Files\FileBeingWritten;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\UnableToRestore;

/** One wire of the process of a host: does what is asked, within one folder of those it was given. */
final class Answering
{
    public const DONE = 'y';

    public const NOT_DONE = 'n';

    /** Not done, and nothing more can be there. */
    public const UNFIT = 'u';

    /** The largest content that goes in a message, and what goes in one together. */
    private const SMALL = 65_536;

    private const TOGETHER = 4 << 20;

    /** Files that are written at a time. */
    private const BEING_WRITTEN = 256;

    private GuardedFolder $folder;

    /** @var array<int, FileBeingWritten> */
    private array $files = [];

    private int $number = 0;

    public function __construct(private readonly Wire $wire, private readonly GivenFolder $given)
    {
    }

    /** Until the other side goes, or says what nobody understands. */
    public function run(int $peer): void
    {
        [$first, $from] = $this->wire->receiveFromWhom();
        if (($from !== $peer && $from !== 0) || ($first[0] ?? '') !== Ask::Open->value) {
            throw HostIsSilent::nonsense();
        }
        $isOpen = $this->answer(function () use ($first): array {
            $this->folder = $this->given->open(self::text($first, 1), self::text($first, 2));

            return [$this->folder->mayGiveAway() ? '1' : '', $this->folder->below->path];
        });
        while ($isOpen) {
            $with = $this->wire->receive();
            $what = Ask::tryFrom((string) array_shift($with)) ?? throw HostIsSilent::nonsense();
            match ($what) {
                Ask::Read => $this->handOver(fn () => $this->folder->below->read($with[0] ?? '')),
                Ask::Create => $this->create($with[0] ?? ''),
                default => $this->answer(fn (): array => $this->done($what, $with)),
            };
        }
    }

    /** @param  callable(): list<string>  $do */
    private function answer(callable $do): bool
    {
        try {
            $this->wire->send([self::DONE, ...$do()]);

            return true;
        } catch (UnableToRestore $failure) {
            $this->wire->send([$failure->targetIsUnfit ? self::UNFIT : self::NOT_DONE, $failure->getMessage()]);

            return false;
        }
    }

    /** @param  callable(): (resource|null)  $open */
    private function handOver(callable $open, string ...$with): void
    {
        $stream = null;
        $isDone = true;
        try {
            $stream = $open();
        } catch (UnableToRestore $failure) {
            $isDone = false;
            $this->wire->send([$failure->targetIsUnfit ? self::UNFIT : self::NOT_DONE, $failure->getMessage()]);
        }
        if ($stream !== null) {
            $this->wire->sendWith([self::DONE, ...array_values($with)], $stream);
            fclose($stream);
        } elseif ($isDone) {
            $this->wire->send([self::DONE]);
        }
    }

    private function create(string $path): void
    {
        $number = ++$this->number;
        $this->handOver(function () use ($path, $number) {
            if (count($this->files) >= self::BEING_WRITTEN) {
                throw HostIsSilent::nonsense();
            }
            $this->folder->mayWrite($path);
            $this->files[$number] = $this->folder->below->createFile($path);

            return $this->files[$number]->stream();
        }, (string) $number);
    }

    /**
     * @param  list<string>  $with
     * @return list<string>
     */
    private function done(Ask $what, array $with): array
    {
        $told = $this->told($what, $with);
        if ($told === null) {
            $this->order($what, $with);
        }

        return $told ?? [];
    }

    /**
     * What has an answer; null for what is only done.
     *
     * @param  list<string>  $with
     * @return list<string>|null
     */
    private function told(Ask $what, array $with): ?array
    {
        $folder = $this->folder;

        return match ($what) {
            Ask::Many => $this->many($with),
            Ask::Put => $this->put($with),
            Ask::Names => $folder->below->names(self::text($with, 0)),
            Ask::Free => [(string) $folder->below->freeBytes()],
            Ask::InUse => $folder->isInUse(self::text($with, 0)) ? ['a program'] : [],
            Ask::Rename => [$folder->rename(self::text($with, 0), self::text($with, 1)) ? '1' : ''],
            Ask::Remove => [$folder->remove(self::text($with, 0)) ? '1' : ''],
            Ask::Extend => $this->extend($with),
            default => null,
        };
    }

    /** @param  list<string>  $with */
    private function order(Ask $what, array $with): void
    {
        $folder = $this->folder;
        match ($what) {
            Ask::Folder => $folder->makeFolder(self::text($with, 0), self::number($with, 1)),
            Ask::Finish => $this->finish($with),
            Ask::Drop => $this->drop(self::number($with, 0)),
            Ask::Symlink => $folder->symlink(self::text($with, 0), self::text($with, 1)),
            Ask::HardLink => $folder->hardLink(self::text($with, 0), self::text($with, 1)),
            Ask::Fifo => $folder->fifo(self::text($with, 0)),
            Ask::RemoveTree => $folder->removeTree(self::text($with, 0)),
            Ask::RemoveIfEmpty => $folder->below->removeIfEmpty(),
            Ask::Describe => $folder->describe(
                self::text($with, 0),
                self::text($with, 1) === '' ? null : self::number($with, 1),
                self::number($with, 2),
                self::number($with, 3),
                self::number($with, 4),
                self::text($with, 5) === '1',
            ),
            Ask::Permit => $folder->permit(
                self::text($with, 0),
                new Permissions(self::number($with, 1), self::number($with, 2), self::number($with, 3), self::text($with, 5)),
                self::text($with, 4) === '1',
            ),
            Ask::Sync => $folder->below->sync(),
            default => throw HostIsSilent::nonsense(),
        };
    }

    /** @param  list<string>  $with */
    private static function text(array $with, int $at): string
    {
        return $with[$at] ?? throw HostIsSilent::nonsense();
    }

    /** @param  list<string>  $with */
    private static function number(array $with, int $at): int
    {
        $text = self::text($with, $at);

        return preg_match('/^-?\d{1,19}$/D', $text) === 1 ? (int) $text : throw HostIsSilent::nonsense();
    }

    /**
     * @param  list<string>  $asked
     * @return list<string>
     */
    private function many(array $asked): array
    {
        $told = [];
        $together = 0;
        foreach (array_chunk($asked, 2) as $pair) {
            $want = self::number($pair, 0);
            $seen = Seen::by($this->folder->below, self::text($pair, 1), $want);
            $size = $seen->status?->type === Status::FILE ? $seen->status->size : PHP_INT_MAX;
            if (($want & Seen::BYTES) !== 0 && $size <= self::SMALL && $together + $size <= self::TOGETHER) {
                $bytes = $this->content($seen->path);
                $together += strlen((string) $bytes);
                $seen = new Seen($seen->path, $seen->status, '', $seen->digest, $bytes, access: $seen->access);
            }
            array_push($told, ...SeenBytes::of($seen));
        }

        return $told;
    }

    private function content(string $path): ?string
    {
        $stream = $this->folder->below->read($path);
        $bytes = $stream === null ? false : stream_get_contents($stream, self::SMALL);
        $stream === null || fclose($stream);

        return $bytes === false ? null : $bytes;
    }

    /**
     * @param  list<string>  $files
     * @return list<string>
     *
     * @throws UnableToRestore if the folder cannot be written to at all
     */
    private function put(array $files): array
    {
        $failed = [];
        foreach (array_chunk($files, 7) as $i => $file) {
            try {
                $this->folder->mayWrite($file[0]);
                $this->folder->below->putFile(
                    $file[0],
                    self::text($file, 1),
                    self::number($file, 2),
                    self::number($file, 3),
                    self::number($file, 4),
                    self::number($file, 5),
                    self::text($file, 6) === '1',
                );
            } catch (UnableToRestore $failure) {
                if ($failure->targetIsUnfit) {
                    throw $failure;
                }
                array_push($failed, (string) $i, $failure->getMessage());
            }
        }

        return $failed;
    }

    private function file(int $number): FileBeingWritten
    {
        return $this->files[$number] ?? throw HostIsSilent::nonsense();
    }

    /**
     * @param  list<string>  $with
     * @return list<string>
     */
    private function extend(array $with): array
    {
        $extended = [];
        foreach (array_chunk(array_slice($with, 1), 2) as $pair) {
            $extended[self::text($pair, 0)] = self::text($pair, 1);
        }

        return $this->file(self::number($with, 0))->extend($extended);
    }

    /** @param  list<string>  $with */
    private function finish(array $with): void
    {
        $number = self::number($with, 0);
        $file = $this->file($number);
        unset($this->files[$number]);
        $file->endsAt(self::number($with, 1));
        $file->finish(
            self::number($with, 2),
            self::number($with, 3),
            self::number($with, 4),
            self::number($with, 5),
            self::text($with, 6) === '1',
        );
    }

    private function drop(int $number): void
    {
        unset($this->files[$number]);
    }
}
