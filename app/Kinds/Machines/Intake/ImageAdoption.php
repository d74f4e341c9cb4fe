<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Machines\Machines;
use App\Kinds\RefusedFile;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\AdoptedStore;
use App\Sets\CannotRegister;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Machine\UnreadableImage;

/** Registers images of disks where they lie, the oldest first, so that what one rests on is known before it. */
final readonly class ImageAdoption
{
    public function __construct(private AdoptOrder $order)
    {
    }

    public function take(): Adopted
    {
        $names = new ImageNames($this->order->options['pattern'] ?? null);
        $found = $names->in($this->order->folder);
        [$sets, $refused] = [[], $names->refused];
        if ($found === []) {
            return new Adopted($sets, $refused);
        }
        $isNew = ! Workload::query()->where('name', $this->order->workload)->exists();
        $workload = Workload::query()->firstOrCreate(['name' => $this->order->workload], ['kind' => Machines::NAME]);
        $store = AdoptedStore::of($this->order->folder, $this->order->workload, $this->order->site);
        $registration = new ImageRegistration($workload, $store, $this->order->progress);
        foreach (self::bySet($found) as $images) {
            try {
                $sets[] = DB::transaction(fn (): BackupSet => $registration->add($images));
            } catch (UnreadableImage|UnreadableArchive|CannotRegister $refusal) {
                $because = $refusal instanceof CannotRegister ? $refusal->getMessage() : "it {$refusal->getMessage()}";
                foreach ($images as $image) {
                    $refused[] = new RefusedFile($image->file, $because);
                }
            }
        }
        $newest = $sets === [] ? null : end($sets);
        $newest === null || LookAtKernels::dispatch($newest->id);
        if ($sets === [] && $isNew) {
            AdoptedStore::undo($workload, $store);
        }

        return new Adopted($sets, $refused);
    }

    /**
     * @param  list<FoundImage>  $found
     * @return array<array-key, non-empty-list<FoundImage>>
     */
    private static function bySet(array $found): array
    {
        $sets = [];
        foreach ($found as $image) {
            $sets[$image->set][] = $image;
        }

        return $sets;
    }
}
