<?php

declare(strict_types=1);

namespace App\Kinds\Machines\InHand;

use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Order\FilesOrder;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Order\MachineSaid;
use App\Kinds\Touched;
use App\Sets\Points;
use App\Sets\SetOutline;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Hypervisor\MachineSeen;

/** Files out of a machine into a machine, off or running, as its hypervisor was seen last. */
final class IntoInHand implements InHand
{
    /** @var list<string>|null */
    private ?array $unfit = null;

    private IntoOrder $order;

    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $point,
        private readonly MachineSaid $said,
        private readonly CopyRule $copies,
    ) {
        $this->order = $this->ordered();
    }

    private function ordered(): IntoOrder
    {
        $order = new IntoOrder(
            $this->said->selection(),
            $this->said->on,
            $this->said->into,
            rawurldecode($this->said->inside),
            ConflictRule::tryFrom($this->said->conflict) ?? ConflictRule::Beside,
            gmdate('Y-m-d Hi'),
            $this->copies,
            isRunning: $this->machine()?->isRunning() ?? false,
        );

        return $order->withSentence($order->sentenceFor($this->points->workload->name, $this->point, 'UTC'));
    }

    public function order(): IntoOrder
    {
        return $this->order;
    }

    private function host(): ?HypervisorHost
    {
        return HypervisorHost::query()->where('name', $this->said->on)->first();
    }

    private function machine(): ?MachineSeen
    {
        return $this->host()?->lastSeen()->machines[$this->said->into] ?? null;
    }

    public function blockers(): array
    {
        return $this->unfit ??= $this->order->paths === [] ? ['Pick under What which files or folders are brought into it.'] : [
            ...$this->host()?->silent === null ? [] : ["{$this->said->on} does not answer."],
            ...$this->order->blockers($this->machine()),
            ...FilesOrder::notThere(new MachineTree($this->points, $this->point, $this->copies), $this->order->paths),
        ];
    }

    public function lookAgain(): void
    {
        $this->unfit = null;
        $this->host()?->lookIfItAnswers();
        $this->order = $this->ordered();
    }

    public function sentence(string $zone): string
    {
        return $this->order->sentenceFor($this->points->workload->name, $this->point, $zone);
    }

    public function identity(): mixed
    {
        return array_diff_key($this->order->toArray(), ['date' => 0]);
    }

    public function touches(): Touched
    {
        $host = $this->host();

        return $host === null ? Touched::nothing() : TouchedMachine::at($host, $this->order->machine, true);
    }

    public function mayReplace(): bool
    {
        return true;
    }

    public function previewCounts(): array
    {
        return ['files' => count($this->order->paths).' picked, '.$this->order->conflict->words()];
    }

    public function runAttributes(): array
    {
        return ['plan' => $this->order->toArray(), 'is_whole' => false];
    }
}
