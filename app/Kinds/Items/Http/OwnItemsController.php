<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Own\OwnItemsView;
use App\Kinds\Items\Own\OwnMailbox;
use App\Models\User;
use App\Models\Workload;
use App\Orders\CannotOrder;
use App\Sets\ContentRead;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** What was in somebody's own mailbox: looked for, looked at and brought back by the person whose it is. */
final class OwnItemsController
{
    public function index(Request $request): View|RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $all = OwnMailbox::of($user);
        abort_if($all === [], 403, 'No rule lets you bring back things of your own here.');

        return redirect($all[0]->page());
    }

    public function show(OwnItemRequest $request, Workload $workload): View
    {
        $box = $request->box();
        $user = $request->person();
        $view = new OwnItemsView($user, $box, $request->mailboxes, $request);
        if ($view->opened !== '') {
            $what = "Looked at {$view->opened} in the own mailbox {$box->name} of {$workload->name}.";
            ContentRead::told($what, $workload, $user);
        }

        return view('kinds.items.own.show', ['view' => $view]);
    }

    /** What is ticked is read once more before it is brought back. */
    public function pick(OwnItemRequest $request, Workload $workload): RedirectResponse
    {
        $items = $request->order()->items;

        return $items === []
            ? redirect($request->box()->page())->withErrors(['items' => 'Nothing was ticked.'])
            : redirect($request->box()->page('/order', ['items' => implode(',', $items)]));
    }

    /** What would come back, in words, to say yes to. */
    public function confirm(OwnItemRequest $request, Workload $workload): View
    {
        $order = $request->order();

        return view('kinds.items.own.confirm', ['order' => $order, 'sheet' => $order->sheet()]);
    }

    public function store(OwnItemRequest $request, Workload $workload): RedirectResponse
    {
        try {
            $begun = $request->order()->place($request->string('seen')->value());
        } catch (CannotOrder $cannot) {
            return redirect($request->box()->page())->withErrors(['items' => $cannot->getMessage()]);
        }

        return redirect("/requests/{$begun->request_id}");
    }
}
