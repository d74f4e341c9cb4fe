<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property string $from_site
 * @property string $to_site
 * @property float $mb_s
 */
final class Lane extends Model
{
    protected $guarded = [];
}
