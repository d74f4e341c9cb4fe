<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Databases\Databases;
use App\Kinds\Intake;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;
use App\Kinds\RebuiltSet;
use App\Kinds\RefusedFile;
use App\Models\History;
use App\Models\Workload;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\UnreadableLog;

/** Takes dumps and binary logs in. */
final class DatabaseIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        $adoption = new DatabaseAdoption($order->folder, $order->workload, $order->site, $order->progress);

        return new Adopted($adoption->sets, $adoption->refused);
    }

    /** Each by its own content; logs first, since they tell when a dump was. */
    public function rebuild(RebuildOrder $order): Rebuilt
    {
        $rebuilt = new Rebuilt;
        $numbered = glob("{$order->folder()}/*.[0-9][0-9][0-9][0-9][0-9][0-9]*.gz") ?: [];
        $logs = array_filter($numbered, fn (string $file): bool => preg_match('/\.\d{6,}\.gz$/D', $file) === 1);
        $files = [...array_values($logs), ...glob("{$order->folder()}/*.sql.gz") ?: []];
        if ($files === []) {
            return $rebuilt;
        }
        $workload = Workload::query()->firstOrCreate(
            ['name' => $order->workload],
            ['kind' => Databases::NAME, 'site' => $order->store->site],
        );
        foreach ($files as $file) {
            ($order->progress)(basename($file));
            $this->take($file, $workload, $order, $rebuilt);
        }
        LogBases::settle($workload);

        return $rebuilt;
    }

    private function take(string $file, Workload $workload, RebuildOrder $order, Rebuilt $rebuilt): void
    {
        $path = "{$order->workload}/".basename($file);
        $isDump = str_ends_with($file, '.sql.gz');
        $name = preg_replace('/(\.sql)?\.gz$/', '', basename($file)) ?? '';
        $history = SetRecordBeside::history(dirname($file)."/$name");
        $registration = new DatabaseRegistration(
            $workload,
            $order->store,
            History::query()->firstOrCreate(['workload_id' => $workload->id, 'name' => $history]),
        );
        try {
            $set = $isDump ? $registration->dump($path) : $registration->log($path);
            $rebuilt->sets[] = new RebuiltSet($order->workload, $set->name, RebuiltSet::BY_ARCHIVE);
        } catch (AlreadyKnown) {
            $rebuilt->sets[] = new RebuiltSet($order->workload, $name, RebuiltSet::KNOWN);
        } catch (UnreadableArchive|UnreadableLog $unreadable) {
            $rebuilt->problems[] = new RefusedFile($path, "It {$unreadable->getMessage()}.");
        }
    }
}
