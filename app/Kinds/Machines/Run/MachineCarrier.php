<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Carrier;
use App\Kinds\Machines\Annex\ReleaseCarrier;
use App\Kinds\Machines\Annex\ReleaseOrder;
use App\Kinds\Machines\Blank\BlankCarrier;
use App\Kinds\Machines\Blank\BlankOrder;
use App\Kinds\Machines\Home\HomeCarrier;
use App\Kinds\Machines\Home\HomeOrder;
use App\Kinds\Machines\Into\IntoCarrier;
use App\Kinds\Machines\Metal\MetalCarrier;
use App\Kinds\Machines\Metal\MetalOrder;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Standing\SettleCarrier;
use App\Kinds\Machines\Standing\SettleOrder;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\User;
use Closure;

/** Runs of machines: those that write images, bring files out of one, or bring one back at a hypervisor. Their plan says which they are. */
final readonly class MachineCarrier implements Carrier
{
    /** The way of a run, in its plan, that brings files; of one that writes images nothing stands there. */
    public const FILES = 'files';

    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
    }

    private function of(Run $run): Carrier
    {
        $way = (string) ($run->plan['way'] ?? '');

        return match (true) {
            $way === self::FILES => new MachineFilesCarrier($this->told),
            $way === SettleOrder::way() => new SettleCarrier($this->told),
            $way === HomeOrder::WAY => new HomeCarrier($this->told),
            $way === ReleaseOrder::way() => new ReleaseCarrier($this->told),
            $way === IntoOrder::WAY => new IntoCarrier($this->told),
            $way === MetalOrder::WAY => new MetalCarrier($this->told),
            $way === BlankOrder::WAY => new BlankCarrier($this->told),
            MachineWay::tryFrom($way) !== null => new PlacementCarrier($this->told),
            default => new ImageCarrier($this->told),
        };
    }

    public function carryOut(Run $run): void
    {
        $this->of($run)->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return $this->of($run)->canBePutBack($run);
    }

    public function losesLaterChanges(): bool
    {
        return false;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        return $this->of($run)->putBack($run, $alsoChanged);
    }

    public function clearAside(Run $run, ?User $by): void
    {
        $this->of($run)->clearAside($run, $by);
    }

    public function clearStaged(Run $run): void
    {
        $this->of($run)->clearStaged($run);
    }

    public function touches(Run $run): Touched
    {
        return $this->of($run)->touches($run);
    }

    public function sentence(Run $run, string $zone): string
    {
        return $this->of($run)->sentence($run, $zone);
    }

    public function came(Run $run): string
    {
        return $this->of($run)->came($run);
    }

    public function howFar(Run $run): string
    {
        return $this->of($run)->howFar($run);
    }

    public function besideProof(Run $run): array
    {
        return $this->of($run)->besideProof($run);
    }

    public function evidence(array $evidence): array
    {
        return isset($evidence['disks']) ? $evidence : (new MachineFilesCarrier)->evidence($evidence);
    }
}
