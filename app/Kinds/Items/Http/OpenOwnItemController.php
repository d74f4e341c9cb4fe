<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Models\Workload;
use Illuminate\Http\Response;

/** What an item of somebody's own mailbox holds, for the person whose it is. */
final class OpenOwnItemController
{
    public function letter(OwnItemRequest $request, Workload $workload, string $item): Response
    {
        return $this->read($request, $workload, $item, 'looked at')->letter();
    }

    public function source(OwnItemRequest $request, Workload $workload, string $item): Response
    {
        return $this->read($request, $workload, $item, 'took the source of')->source();
    }

    public function part(OwnItemRequest $request, Workload $workload, string $item, int $number): Response
    {
        return $this->read($request, $workload, $item, "took attachment $number of")->part($number);
    }

    private function read(OwnItemRequest $request, Workload $workload, string $key, string $did): ServedItem
    {
        $box = $request->box();

        return ServedItem::of($workload, $key, $box->name)->noted($did, "in the own mailbox {$box->name}", $request->person());
    }
}
