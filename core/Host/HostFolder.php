<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Closure;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\NewFile;
use Kaiseki\Core\Files\Owners;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;

/**
 * A folder of this machine that the process of its host looks at and writes to (HostProcess): the desk itself has no right
 * there. Each question is a message and its answer; small files and what is asked of many go together, one batch ahead.
 */
final class HostFolder implements Target
{
    /** Small files, and bytes of them, that go in one message. */
    private const PUT_FILES = 100;

    private const PUT_BYTES = 1 << 20;

    /** Fields of a small file in a message. */
    private const PUT_FIELDS = 7;

    /** Paths that are asked of in one message. */
    private const MANY = 200;

    /** @var list<string> what is to be written, as it goes over the wire */
    private array $toPut = [];

    private int $toPutBytes = 0;

    /** @var list<string> paths of the message that is not answered yet */
    private array $sent = [];

    /** @var array<array-key, UnableToRestore> */
    private array $failed = [];

    /** @var array<array-key, true> folders that are there */
    private array $made = [];

    /** Takes the answer to a question that somebody else stopped waiting for. */
    private ?Closure $unanswered = null;

    private function __construct(
        private readonly Wire $wire,
        private readonly string $socket,
        private readonly string $folder,
        private readonly bool $mayGiveAway,
        private readonly string $below = '',
    ) {
    }

    /**
     * @param  string  $socket  of the host's process
     * @param  bool  $make  whether it is made if only its last part is missing
     *
     * @throws UnableToRestore if it lies in no folder that the process was given, behind a link, is not there, or is none
     */
    public static function open(string $socket, string $folder, bool $make = false): self
    {
        [$wire, [$mayGiveAway]] = self::wire($socket, $folder, $make ? GivenFolder::MAKE : '');

        return new self($wire, $socket, $folder, $mayGiveAway === '1');
    }

    /**
     * A folder to look at; it need not be there.
     *
     * @throws UnableToRestore if it lies in no folder that the process was given
     */
    public static function look(string $socket, string $folder): self
    {
        [$wire, [, $root]] = self::wire($socket, $folder, GivenFolder::LOOK);

        return new self($wire, $socket, $folder, false, implode('/', FolderBelow::partsBetween($root, $folder)));
    }

    /** @return array{Wire, array{string, string}} */
    private static function wire(string $socket, string $folder, string $how): array
    {
        try {
            $wire = Wire::to($socket);
            $wire->send([Ask::Open->value, $folder, $how]);
            $answer = self::answer($wire->receive());

            return [$wire, [$answer[0] ?? '', $answer[1] ?? '']];
        } catch (HostIsSilent $silent) {
            throw UnableToRestore::targetUnfit($folder, lcfirst(rtrim($silent->getMessage(), '.')));
        }
    }

    private function at(string $path): string
    {
        return $path === '' ? $this->below : EntryPath::join($this->below, $path);
    }

    public function label(): string
    {
        return $this->folder;
    }

    public function timeStep(): int
    {
        return 1;
    }

    public function owners(): Owners
    {
        return Owners::here($this->mayGiveAway);
    }

    public function twin(): self
    {
        $this->flush();

        return self::open($this->socket, $this->folder);
    }

    public function status(string $path): ?Status
    {
        return SeenBytes::seen($path, ...$this->ask(Ask::Many, '0', $this->at($path)))->status;
    }

    public function readLink(string $path): string
    {
        return SeenBytes::seen($path, ...$this->ask(Ask::Many, '0', $this->at($path)))->link;
    }

    public function digest(string $path, ?int $size = null): ?string
    {
        return SeenBytes::seen($path, ...$this->ask(Ask::Many, (string) Seen::DIGEST, $this->at($path)))->digest;
    }

    public function access(string $path, bool $isFolder): ?string
    {
        return SeenBytes::seen($path, ...$this->ask(Ask::Many, (string) Seen::ACCESS, $this->at($path)))->access;
    }

    public function many(iterable $asked): iterable
    {
        $before = null;
        foreach ($this->inBatches($asked) as $batch) {
            $done = $before === null ? null : $before();
            $before = $this->ahead($batch);
            yield from $done ?? [];
        }
        yield from $before === null ? [] : $before();
    }

    /**
     * Asks, and waits for the answer only when it is wanted, or the wire is wanted for something else.
     *
     * @param  list<string>  $batch  what is wanted, path, and so on
     * @return Closure(): list<Seen>
     */
    private function ahead(array $batch): Closure
    {
        $this->flush();
        $this->wire->send([Ask::Many->value, ...$batch]);
        $answer = null;
        $take = function () use (&$answer): void {
            $answer ??= self::answer($this->wire->receive());
        };
        $this->unanswered = $take;

        return function () use (&$answer, $take, $batch): array {
            if ($this->unanswered === $take) {
                $this->unanswered = null;
            }
            $take();
            $seen = [];
            foreach (array_chunk((array) $answer, SeenBytes::STRINGS) as $i => $strings) {
                $path = $batch[2 * $i + 1];
                $seen[] = SeenBytes::seen($this->below === '' ? $path : substr($path, strlen($this->below) + 1), ...$strings);
            }

            return $seen;
        };
    }

    /**
     * @param  iterable<array{string, int}>  $asked
     * @return iterable<list<string>>
     */
    private function inBatches(iterable $asked): iterable
    {
        $batch = [];
        foreach ($asked as [$path, $want]) {
            array_push($batch, (string) $want, $this->at($path));
            if (count($batch) >= 2 * self::MANY) {
                yield $batch;
                $batch = [];
            }
        }
        if ($batch !== []) {
            yield $batch;
        }
    }

    public function names(string $path): array
    {
        return $this->ask(Ask::Names, $this->at($path));
    }

    public function read(string $path)
    {
        return $this->askForFile(Ask::Read, $this->at($path))[1];
    }

    public function freeBytes(): int
    {
        return (int) $this->ask(Ask::Free)[0];
    }

    public function openForWriting(string $path): ?string
    {
        return $this->ask(Ask::InUse, $this->at($path))[0] ?? null;
    }

    public function makeFolder(string $path, int $mode = 0700): void
    {
        if ($path === '' || isset($this->made[$path])) {
            return;
        }
        $this->ask(Ask::Folder, $path, (string) $mode);
        if (count($this->made) > 10_000) {
            $this->made = [];
        }
        for ($folder = $path; $folder !== '' && ! isset($this->made[$folder]); [$folder] = EntryPath::split($folder)) {
            $this->made[$folder] = true;
        }
    }

    public function createFile(string $path): NewFile
    {
        [$answer, $stream] = $this->askForFile(Ask::Create, $path);
        if ($stream === null) {
            throw UnableToRestore::at($path, 'the process of the host did not hand the new file over');
        }

        return new HostFile($this->ask(...), $answer[0] ?? '', $stream, fn (): UnableToRestore => UnableToRestore::full($this->folder));
    }

    public function putFile(string $path, string $bytes, int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        array_push($this->toPut, $path, $bytes, (string) $mode, (string) $uid, (string) $gid, (string) $mtime, $owner ? '1' : '');
        $this->toPutBytes += strlen($bytes);
        if (count($this->toPut) >= self::PUT_FILES * self::PUT_FIELDS || $this->toPutBytes >= self::PUT_BYTES) {
            $this->sendPut();
        }
    }

    public function settle(): array
    {
        $this->flush();
        [$failed, $this->failed] = [$this->failed, []];

        return $failed;
    }

    /** Sends what is to be written; the answer to what was sent before is waited for first, this one's is not. */
    private function sendPut(): void
    {
        $this->heardOfPut();
        $this->takeUnanswered();
        if ($this->toPut === []) {
            return;
        }
        $put = $this->toPut;
        [$this->toPut, $this->toPutBytes] = [[], 0];
        for ($i = 0, $count = count($put); $i < $count; $i += self::PUT_FIELDS) {
            $this->sent[] = $put[$i];
        }
        $this->over(fn () => $this->wire->send([Ask::Put->value, ...$put]));
    }

    private function heardOfPut(): void
    {
        if ($this->sent === []) {
            return;
        }
        [$sent, $this->sent] = [$this->sent, []];
        foreach (array_chunk($this->over(fn (): array => self::answer($this->wire->receive())), 2) as [$number, $message]) {
            $this->failed[$sent[(int) $number]] = UnableToRestore::told($message, false);
        }
    }

    private function flush(): void
    {
        $this->sendPut();
        $this->heardOfPut();
    }

    private function takeUnanswered(): void
    {
        [$take, $this->unanswered] = [$this->unanswered, null];
        $take === null || $take();
    }

    public function symlink(string $target, string $path): void
    {
        $this->ask(Ask::Symlink, $target, $path);
    }

    public function hardLink(string $existing, string $path): void
    {
        $this->ask(Ask::HardLink, $existing, $path);
    }

    public function fifo(string $path): void
    {
        $this->ask(Ask::Fifo, $path);
    }

    public function rename(string $from, string $to): bool
    {
        $this->made = [];

        return $this->ask(Ask::Rename, $from, $to) === ['1'];
    }

    public function remove(string $path): bool
    {
        $this->made = [];

        return $this->ask(Ask::Remove, $path) === ['1'];
    }

    public function removeIfEmpty(): void
    {
        $this->ask(Ask::RemoveIfEmpty);
    }

    public function removeTree(string $path): void
    {
        $this->made = [];
        $this->ask(Ask::RemoveTree, $path);
    }

    public function describe(string $path, ?int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        $this->ask(Ask::Describe, $path, (string) $mode, (string) $uid, (string) $gid, (string) $mtime, $owner ? '1' : '');
    }

    public function permit(string $path, Permissions $permissions, bool $owner): void
    {
        $this->ask(
            Ask::Permit,
            $path,
            (string) $permissions->mode,
            (string) $permissions->uid,
            (string) $permissions->gid,
            $owner ? '1' : '',
            (string) $permissions->access,
        );
    }

    public function sync(): void
    {
        $this->ask(Ask::Sync);
    }

    /** @return list<string> */
    private function ask(Ask $what, string ...$with): array
    {
        $this->flush();

        return $this->over(function () use ($what, $with): array {
            $this->wire->send([$what->value, ...array_values($with)]);

            return self::answer($this->wire->receive());
        });
    }

    /** @return array{list<string>, resource|null} */
    private function askForFile(Ask $what, string $path): array
    {
        $this->flush();

        return $this->over(function () use ($what, $path): array {
            $this->wire->send([$what->value, $path]);
            [$answer, $stream] = $this->wire->receiveWith();

            return [self::answer($answer), $stream];
        });
    }

    /**
     * @template T
     *
     * @param  callable(): T  $talk
     * @return T
     *
     * @throws UnableToRestore if the process of the host has gone
     */
    private function over(callable $talk): mixed
    {
        try {
            return $talk();
        } catch (HostIsSilent $silent) {
            throw UnableToRestore::targetUnfit($this->folder, lcfirst(rtrim($silent->getMessage(), '.')));
        }
    }

    /**
     * @param  list<string>  $answer
     * @return list<string> what was told
     *
     * @throws UnableToRestore if it could not be done
     */
    private static function answer(array $answer): array
    {
        return match (array_shift($answer)) {
            Answering::DONE => $answer,
            Answering::UNFIT => throw UnableToRestore::told($answer[0] ?? '', true),
            Answering::NOT_DONE => throw UnableToRestore::told($answer[0] ?? '', false),
            default => throw HostIsSilent::nonsense(),
        };
    }
}
