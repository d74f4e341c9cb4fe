<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Order\ItemsSheet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\View\RequestFrame;
use Illuminate\Http\Request;

/** What the page of a request about mailboxes shows. */
final class ItemsSheetView
{
    public readonly ItemsSheet $sheet;

    public readonly RequestFrame $frame;

    public function __construct(public readonly RecoveryRequest $request, public readonly User $user, private readonly Request $http)
    {
        $this->sheet = new ItemsSheet($request);
        $this->frame = new RequestFrame($request, $user, $http);
    }
}
