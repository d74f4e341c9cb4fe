<?php

declare(strict_types=1);

namespace App\Kinds\Machines\InHand;

use App\Kinds\Machines\Order\ImagePlan;
use App\Kinds\Touched;
use App\Models\Host;
use App\Trees\Run\TouchedFolder;

/** Images of disks into a folder: only ever written beside what is there. */
final class ImagesInHand implements InHand
{
    /** @var list<string>|null */
    private ?array $unfit = null;

    /** @param  int  $all  how many disks the point has */
    public function __construct(private readonly ImagePlan $plan, private readonly ?Host $host, private readonly int $all)
    {
    }

    public function blockers(): array
    {
        return $this->unfit ??= $this->plan->blockers();
    }

    public function lookAgain(): void
    {
        $this->unfit = null;
    }

    public function sentence(string $zone): string
    {
        return $this->plan->sentence($zone);
    }

    public function identity(): mixed
    {
        return $this->plan->order->toArray();
    }

    public function touches(): Touched
    {
        return new Touched([TouchedFolder::of($this->host, $this->plan->order->folder, false)]);
    }

    public function mayReplace(): bool
    {
        return false;
    }

    public function previewCounts(): array
    {
        return ['images' => 'new images, and nothing is written over'];
    }

    public function runAttributes(): array
    {
        $disks = count($this->plan->order->disks);

        return [
            'plan' => $this->plan->order->toArray(),
            'is_whole' => $disks === $this->all,
            'files_total' => $disks,
            'bytes_total' => 2 * $this->plan->planned->sizes(),
        ];
    }
}
