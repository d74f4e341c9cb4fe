<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property int $workload_id
 * @property string $name
 */
final class History extends Model
{
    protected $guarded = [];

    public $timestamps = false;
}
