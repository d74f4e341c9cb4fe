@use('App\Kinds\Machines\Page\MetalView')
@use('App\Words')
<table class="list mb-3" id="disks">
    <caption class="visually-hidden">Its disks</caption>
    <thead>
        <tr>
            <th>Its disks</th>
            <th class="num">Size</th>
            <th>Serial number</th>
            <th>Model</th>
            <th>On it now</th>
        </tr>
    </thead>
    <tbody>
        @foreach ($view->machine->disks as $disk)
            <tr @class(['muted' => $disk->isMedium])>
                <td class="mono">{{ $disk->name }}</td>
                <td class="num"><x-size :bytes="$disk->bytes" /></td>
                <td class="mono">{{ $disk->serial === '' ? 'none' : $disk->serial }}</td>
                <td>{{ $disk->model }}</td>
                <td>{{ MetalView::onIt($disk) }}</td>
            </tr>
        @endforeach
    </tbody>
</table>
