<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Closure;
use Kaiseki\Core\Hypervisor\AgentFacts;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\InsideOutcome;

/**
 * The agent in one machine that runs, over the line that QEMU has to it (docs/interop/qemu-ga-ref of QEMU). What it says is the word of
 * that machine.
 */
final class GuestAgent
{
    private const PATIENCE = 30.0;

    /** Bytes of a file that go over the line in one message. */
    private const WRITTEN_AT_ONCE = 48_000;

    private function __construct(private readonly QemuProcess $process, private readonly JsonLines $lines)
    {
    }

    /** @throws HypervisorFailure if none answers */
    public static function of(QemuProcess $process): self
    {
        $process->hasAgent() || throw HypervisorFailure::because('no agent runs in it');
        $agent = new self($process, JsonLines::to($process->agentSocket(), microtime(true) + self::PATIENCE));
        $agent->synchronise();

        return $agent;
    }

    /** What was left from who asked before ends at the byte that no text has. */
    private function synchronise(): void
    {
        $until = microtime(true) + self::PATIENCE;
        $number = random_int(1, PHP_INT_MAX);
        $this->lines->send(['execute' => 'guest-sync-delimited', 'arguments' => ['id' => $number]], "\xff");
        do {
            $this->lines->until("\xff", $until);
            $told = $this->lines->line($until);
        } while (($told['return'] ?? null) !== $number);
    }

    /** @param  array<string, mixed>  $with */
    private function call(string $command, array $with = []): mixed
    {
        $this->lines->send(['execute' => $command, 'arguments' => (object) $with]);
        $answer = $this->lines->line(microtime(true) + self::PATIENCE);
        if (isset($answer['error'])) {
            $because = is_array($answer['error']) ? (string) ($answer['error']['desc'] ?? '') : '';
            throw HypervisorFailure::because("the agent in it says to $command: ".mb_strcut(mb_scrub($because), 0, 500));
        }

        return $answer['return'] ?? null;
    }

    /** @return array<mixed> */
    private function told(string $command): array
    {
        $told = $this->call($command);

        return is_array($told) ? $told : throw HypervisorFailure::nonsense("to $command of the agent in it");
    }

    public function facts(): AgentFacts
    {
        $system = $this->told('guest-get-osinfo');

        return AgentFacts::fromArray([
            'version' => $this->told('guest-info')['version'] ?? '',
            'host' => $this->told('guest-get-host-name')['host-name'] ?? '',
            'system' => $system['pretty-name'] ?? $system['kernel-release'] ?? '',
        ]);
    }

    /** @param  non-empty-list<string>  $command */
    public function run(array $command, int $limit): InsideOutcome
    {
        $until = microtime(true) + $limit;
        $pid = $this->begin($command, true);
        do {
            $told = $this->call('guest-exec-status', ['pid' => $pid]);
            is_array($told) || throw HypervisorFailure::nonsense('to guest-exec-status of the agent in it');
            if (($told['exited'] ?? false) === true) {
                $said = base64_decode((string) ($told['out-data'] ?? '')).base64_decode((string) ($told['err-data'] ?? ''));
                $signal = $told['signal'] ?? null;

                return new InsideOutcome(is_int($signal) ? 128 + $signal : max(0, (int) ($told['exitcode'] ?? 255)), $said);
            }
            usleep(50_000);
        } while (microtime(true) < $until);
        $this->begin(['kill', '-9', (string) $pid], false);

        return new InsideOutcome(null, '');
    }

    /** @param  non-empty-list<string>  $command */
    private function begin(array $command, bool $isHeard): int
    {
        $with = ['path' => $command[0], 'arg' => array_slice($command, 1), 'capture-output' => $isHeard];
        $pid = is_array($told = $this->call('guest-exec', $with)) ? $told['pid'] ?? null : null;

        return is_int($pid) ? $pid : throw HypervisorFailure::nonsense('to guest-exec of the agent in it');
    }

    public function write(string $path, string $bytes, bool $isNew): void
    {
        $handle = $this->call('guest-file-open', ['path' => $path, 'mode' => $isNew ? 'w' : 'a']);
        is_int($handle) || throw HypervisorFailure::nonsense('to guest-file-open of the agent in it');
        try {
            foreach (str_split($bytes, self::WRITTEN_AT_ONCE) as $piece) {
                $told = $this->call('guest-file-write', ['handle' => $handle, 'buf-b64' => base64_encode($piece)]);
                (is_array($told) && ($told['count'] ?? null) === strlen($piece)) ||
                    throw HypervisorFailure::because('the agent in it did not write all of it: is there room?');
            }
            $this->call('guest-file-flush', ['handle' => $handle]);
        } finally {
            $this->call('guest-file-close', ['handle' => $handle]);
        }
    }

    /**
     * Does something while the file systems of the machine are at rest: all that was written is on its disks, and nothing is being
     * written. A file beside tells who holds it so, for whoever finds that one gone.
     *
     * @param  Closure(): mixed  $do
     * @return string|null why they were not at rest
     */
    public function atRest(Closure $do): ?string
    {
        $unrest = null;
        file_put_contents($this->process->restFile(), (string) getmypid());
        try {
            $frozen = $this->call('guest-fsfreeze-freeze');
            $unrest = is_int($frozen) && $frozen > 0 ? null : 'it has no file system that can be brought to rest';
        } catch (HypervisorFailure $failure) {
            $unrest = $failure->getMessage();
        }
        try {
            $do();
        } finally {
            $this->release();
        }

        return $unrest;
    }

    private function release(): void
    {
        try {
            $this->synchronise(); // an answer may have come too late
            $this->call('guest-fsfreeze-thaw');
            @unlink($this->process->restFile());
        } catch (HypervisorFailure) {
            return; // whoever looks next tries again
        }
    }

    /** Who held the file systems of a machine at rest may have been killed: then they go on now. */
    public static function releaseIfLeft(QemuProcess $process): void
    {
        $pid = (int) @file_get_contents($process->restFile());
        if ($pid !== 0 && ! posix_kill($pid, 0)) {
            try {
                self::of($process)->release();
            } catch (HypervisorFailure) {
                $process->pid() !== null || @unlink($process->restFile());
            }
        }
    }
}
