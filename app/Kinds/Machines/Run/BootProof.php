<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Disks\VolumeTree;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Runs\RunProgress;
use Closure;
use Kaiseki\Core\Hypervisor\BootStage;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Proof\CheckLine;

/**
 * Starts a machine, and asks it who it is: what it answers must hold what files of its own held before it was started. Another's answer
 * is a failure; that it is still starting is none, but one that stands still without an answer has failed.
 */
final class BootProof
{
    /** Seconds for which it is waited for. */
    private const PATIENCE = 300;

    /** Characters of the end of what it said on its serial line. */
    private const SAID = 300;

    /** @var Closure(string): ?string gives what a page answers; null for no answer */
    private readonly Closure $ask;

    /** What is seen of it meanwhile. */
    public readonly BootWatch $watch;

    /** What came of it: passed, failed, or not seen. */
    public string $result = 'not seen';

    public string $detail = '';

    /**
     * @param  VolumeTree|array<string, string>  $known  where the files lie by which it is known, or file => what it held
     * @param  (Closure(string): ?string)|null  $ask  another that asks
     */
    public function __construct(
        private readonly Hypervisor $hypervisor,
        private readonly string $machine,
        private readonly ?Answer $answer,
        private readonly VolumeTree|array $known,
        private readonly RunProgress $progress,
        private readonly int $patience = self::PATIENCE,
        ?Closure $ask = null,
        float $still = BootWatch::STILL,
    ) {
        $this->ask = $ask ?? WhoAnswers::ask(...);
        $this->watch = new BootWatch($hypervisor, $machine, $still);
    }

    public function run(): string
    {
        $wanted = is_array($this->known) ? $this->known : WhoAnswers::wanted($this->answer, $this->known);
        $this->hypervisor->machine($this->machine)?->isRunning() || $this->hypervisor->start($this->machine);
        $began = microtime(true);
        $address = $this->hypervisor->machine($this->machine)?->address;
        $this->detail = match (true) {
            $this->answer === null => 'it runs; by what it is told from another is not known here',
            $address === null => 'it runs; no card of it is connected, so that nobody can ask it',
            default => '',
        };
        while ($this->detail === '') {
            $said = ($this->ask)("http://$address{$this->answer?->asked}");
            $after = microtime(true) - $began;
            [$this->result, $this->detail] = match (true) {
                $said !== null => WhoAnswers::judge($said, $wanted, $after),
                ! $this->hypervisor->machine($this->machine)?->isRunning() => [
                    'failed',
                    'it is off again; it said last: '.$this->lastWords(),
                ],
                default => $this->waited($after),
            };
            $said === null || $this->watch->reached(BootStage::Service);
            $this->progress->advanced(0, 0);
            $this->detail === '' && usleep(200_000);
        }

        return $this->detail;
    }

    /** What came of it, for the proof of its run. */
    public function check(): CheckLine
    {
        return new CheckLine('it answers, as itself', $this->result, $this->detail);
    }

    /** @return array{string, string} of one that runs, and has not answered yet; '' while it is waited for */
    private function waited(float $after): array
    {
        try {
            $trouble = $this->watch->look();
        } catch (HypervisorFailure) {
            return ['not seen', '']; // it went off just now, or its hypervisor did: the next question tells
        }
        $where = $this->watch->whereabouts();

        return match (true) {
            $trouble !== null => ['failed', "$trouble; $where, and nothing answers; it said last: ".$this->lastWords()],
            $after > $this->patience => [
                'not seen',
                "it is still starting: $where, and it is at work; it said last: ".$this->lastWords(),
            ],
            default => ['not seen', ''],
        };
    }

    private function lastWords(): string
    {
        return mb_strimwidth(
            trim((string) preg_replace('/\s+/', ' ', mb_scrub(substr($this->hypervisor->serial($this->machine), -self::SAID)))),
            0,
            self::SAID,
        ) ?:
            'nothing';
    }
}
