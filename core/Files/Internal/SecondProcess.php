<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files\Internal;

use Kaiseki\Core\Files\UnableToRestore;
use Throwable;

/**
 * Half of a work, done by a second process beside this one. It has what this one had when it began, but must keep away
 * from connections (a database, SFTP): they stay with this one. It ends when this one does, whatever ends it.
 */
final class SecondProcess
{
    private const HOW_FAR = 'h';

    private const RESULT = 'r';

    private const PR_SET_PDEATHSIG = 1;

    private string $received = '';

    /** @param  resource  $pipe */
    private function __construct(private readonly int $pid, private $pipe)
    {
    }

    public function __destruct()
    {
        $this->end();
    }

    /** On the command line only: the processes that serve pages are not to be doubled. */
    public static function isPossible(): bool
    {
        return PHP_SAPI === 'cli' && function_exists('pcntl_fork') && function_exists('posix_kill');
    }

    /**
     * @param  callable(callable(int, int): void): array<mixed>  $work  is given what it tells files and bytes to; its result holds
     *     scalars and arrays only
     * @return self|null null where there can be no second one: then the work is for this one
     */
    public static function begin(callable $work): ?self
    {
        $pair = self::isPossible() ? stream_socket_pair(STREAM_PF_UNIX, STREAM_SOCK_STREAM, 0) : false;
        if ($pair === false) {
            return null;
        }
        $own = (int) getmypid();
        $pid = pcntl_fork();
        if ($pid === 0) {
            self::beSecond($work, $pair[1], $own);
        }
        fclose($pair[1]);
        if ($pid < 0) {
            fclose($pair[0]);

            return null;
        }

        return new self($pid, $pair[0]);
    }

    /** @return array{int, int} files and bytes that it told of since the last time; does not wait */
    public function howFar(): array
    {
        stream_set_blocking($this->pipe, false);
        $this->received .= (string) fread($this->pipe, 1 << 16);
        $files = $bytes = 0;
        while (strlen($this->received) >= 17 && $this->received[0] === self::HOW_FAR) {
            $told = unpack('Jfiles/Jbytes', $this->received, 1);
            $files += $told['files'] ?? 0;
            $bytes += $told['bytes'] ?? 0;
            $this->received = substr($this->received, 17);
        }

        return [$files, $bytes];
    }

    /**
     * Waits until it has ended.
     *
     * @param  callable(int, int): void  $tell  told files and bytes meanwhile
     * @return array<mixed>
     *
     * @throws UnableToRestore if its target failed, or the process died
     */
    public function result(callable $tell): array
    {
        while (($this->received[0] ?? self::HOW_FAR) === self::HOW_FAR) {
            $read = [$this->pipe];
            $write = $except = null;
            stream_select($read, $write, $except, 0, 200_000);
            $tell(...$this->howFar());
            if (($this->received[0] ?? '') === '' && feof($this->pipe)) {
                throw UnableToRestore::processDied();
            }
        }
        stream_set_blocking($this->pipe, true);
        $serialized = substr($this->received.stream_get_contents($this->pipe), 1);
        $this->end();
        $result = @unserialize($serialized, ['allowed_classes' => false]);
        if (! is_array($result)) {
            throw UnableToRestore::processDied();
        }

        return isset($result['failure']) ? throw UnableToRestore::told((string) $result['failure'], true) : $result;
    }

    private function end(): void
    {
        if (is_resource($this->pipe)) {
            fclose($this->pipe);
            posix_kill($this->pid, SIGKILL);
            pcntl_waitpid($this->pid, $status);
        }
    }

    /**
     * @param  callable(callable(int, int): void): array<mixed>  $work
     * @param  resource  $pipe
     */
    private static function beSecond(callable $work, $pipe, int $first): never
    {
        Libc::get()->c->prctl(self::PR_SET_PDEATHSIG, SIGKILL);
        try {
            if (posix_getppid() === $first) {
                // it may have died before that call
                $result = $work(function (int $files, int $bytes) use ($pipe): void {
                    fwrite($pipe, self::HOW_FAR.pack('JJ', $files, $bytes));
                });
                fwrite($pipe, self::RESULT.serialize($result));
            }
        } catch (Throwable $failure) {
            fwrite($pipe, self::RESULT.serialize(['failure' => $failure->getMessage()]));
        }
        // Nothing of what it inherited is to be closed in order: the other side of each connection would take it for the end.
        posix_kill((int) getmypid(), SIGKILL);
        exit(0);
    }
}
