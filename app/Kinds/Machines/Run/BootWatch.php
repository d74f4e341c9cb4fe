<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Hypervisors\MachineLook;
use App\View\DrawnPicture;
use App\Words;
use Kaiseki\Core\Hypervisor\Beat;
use Kaiseki\Core\Hypervisor\BootReading;
use Kaiseki\Core\Hypervisor\BootStage;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** What is seen of a machine while it starts: how far it is, and whether it works or stands still, by its counters and not by a clock. */
final class BootWatch
{
    /** Seconds between two looks. */
    private const LOOKS = 1.0;

    /** Seconds for which it must have computed, read and written nothing before it is taken to stand still. */
    public const STILL = 20.0;

    /** Characters of the end of what it said that are kept. */
    private const SAID = 4000;

    /** Of a picture that is kept with its run. */
    private const LARGEST_PICTURE = 200_000;

    /** @var list<array{stage: string, ms: int}> each with when it was seen first */
    public array $stages = [];

    private ?BootStage $last = null;

    /** From then on it may stand still. */
    private ?Beat $since = null;

    private float $looked = 0.0;

    private readonly float $began;

    /** @param  float  $still  seconds for which it may stand still */
    public function __construct(
        private readonly Hypervisor $hypervisor,
        private readonly string $machine,
        private readonly float $still = self::STILL,
    ) {
        $this->began = microtime(true);
    }

    /** @return string|null why it will not come any further, in words; null while it may */
    public function look(): ?string
    {
        if (microtime(true) - $this->looked < self::LOOKS) {
            return null;
        }
        $this->looked = microtime(true);
        $said = $this->hypervisor->firmware($this->machine)."\n".$this->hypervisor->serial($this->machine);
        $this->reached(BootReading::stage($said));

        return BootReading::trouble($said) ?? $this->standsStill();
    }

    public function reached(?BootStage $stage): void
    {
        if ($stage !== null && $stage->value > ($this->last->value ?? 0)) {
            $this->last = $stage;
            $this->stages[] = ['stage' => $stage->words(), 'ms' => (int) (1000 * (microtime(true) - $this->began))];
        }
    }

    private function standsStill(): ?string
    {
        $beat = $this->hypervisor->beat($this->machine);
        if ($this->since === null || ! $beat->isStillSince($this->since)) {
            $this->since = $beat;
        }
        $still = $beat->at - $this->since->at;

        return $still < $this->still
            ? null
            : 'it stands still: for '.Words::duration($still).' it has computed, read and written next to nothing';
    }

    /** Where it is, for who waited for it long enough. */
    public function whereabouts(): string
    {
        return $this->last === null ? 'nothing that it said tells how far it is' : "it came to its {$this->last->words()}";
    }

    /** @return array{stages: list<array{stage: string, ms: int}>, serial: string, screen: string|null} picture as PNG, base64 */
    public function account(): array
    {
        try {
            $serial = $this->hypervisor->serial($this->machine);
            $isRunning = $this->hypervisor->machine($this->machine)?->isRunning() ?? false;
            $picture = $isRunning ? DrawnPicture::png($this->hypervisor->screen($this->machine)) : null;
        } catch (HypervisorFailure) {
            [$serial, $picture] = ['', null];
        }

        return [
            'stages' => $this->stages,
            'serial' => MachineLook::shown(substr($serial, -self::SAID)),
            'screen' => $picture === null || strlen($picture) > self::LARGEST_PICTURE ? null : base64_encode($picture),
        ];
    }
}
