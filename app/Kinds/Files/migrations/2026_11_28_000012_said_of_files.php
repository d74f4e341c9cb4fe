<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    /** What was decided for files had columns of its own until now. */
    public function up(): void
    {
        $ofFiles = DB::table('requests')
            ->leftJoin('workloads', 'workloads.id', 'requests.workload_id')
            ->where(fn ($query) => $query->whereNull('workloads.id')->orWhere('workloads.kind', 'files'))
            ->select('requests.*');
        foreach ($ofFiles->get() as $row) {
            DB::table('requests')
                ->where('id', $row->id)
                ->update([
                    'said' => json_encode(
                        [
                            'kind' => 'files',
                            'version' => 1,
                            'said' => [
                                'selection' => json_decode($row->selection ?? '[]', true) ?? [],
                                'destination' => $row->destination,
                                'folder' => $row->destination_folder,
                                'host' => $row->destination_host_id,
                                'conflict' => $row->conflict,
                                'conflictIn' => json_decode($row->conflict_in ?? '[]', true) ?? [],
                                'flat' => (bool) $row->flat,
                                'renameTo' => $row->rename_to ?? '',
                                'acrossPoints' => (bool) $row->across_points,
                            ],
                        ],
                        JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE,
                    ),
                ]);
        }
        Schema::table('requests', function (Blueprint $table): void {
            $table->dropConstrainedForeignId('destination_host_id');
            $table->dropColumn([
                'selection',
                'destination',
                'destination_folder',
                'conflict',
                'conflict_in',
                'flat',
                'rename_to',
                'across_points',
            ]);
        });
    }
};
